import BellRing from 'lucide-react/icons/bell-ring';
import { listWords } from '#core/words/condition.ts';
import { Button } from '../../ui/button.tsx';
import { CheckField } from '../../ui/field.tsx';
import { Popover } from '../../ui/popover.tsx';

/** Who is told of a note, beside whoever the record is given to. */
export function Tells({
  people,
  told,
  onChange,
}: {
  people: readonly { readonly id: string; readonly name: string }[];
  told: readonly string[];
  onChange: (told: readonly string[]) => void;
}) {
  const names = people.filter(({ id }) => told.includes(id)).map(({ name }) => name);
  return (
    <Popover
      label="Who is told"
      trigger={
        <Button>
          <BellRing className="size-3.5" aria-hidden="true" />
          {names.length === 0 ? 'Tell somebody …' : `Tell ${listWords(names)}`}
        </Button>
      }
    >
      <p className="mb-2 text-small text-muted">
        It is counted beside their follow-ups until they have seen it.
      </p>
      <div className="flex max-h-64 flex-col gap-1 overflow-auto p-1">
        {people.map(({ id, name }) => (
          <CheckField
            key={id}
            label={name}
            checked={told.includes(id)}
            onChange={() => onChange(told.includes(id) ? told.filter((each) => each !== id) : [...told, id])}
          />
        ))}
      </div>
    </Popover>
  );
}
