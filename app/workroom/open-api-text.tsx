import { TextAreaField } from '../ui/field.tsx';
import { Wrong } from '../ui/message.tsx';

/** An OpenAPI document that is pasted or dropped as a file, and what is wrong with it. */
export function OpenApiText({
  text,
  problem,
  onChange,
}: {
  text: string;
  problem: string | null;
  onChange: (text: string) => void;
}) {
  return (
    <>
      <TextAreaField
        label="An OpenAPI 3 document"
        hint="JSON or YAML, pasted here or dropped as a file."
        className="h-28 font-mono text-small"
        value={text}
        onChange={({ target }) => onChange(target.value)}
        onDrop={(event) => {
          const [file] = event.dataTransfer.files;
          if (!file) return;
          event.preventDefault();
          void file.text().then(onChange);
        }}
      />
      {problem !== null && <Wrong>{problem}</Wrong>}
    </>
  );
}
