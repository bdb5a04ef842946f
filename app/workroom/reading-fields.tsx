import { encodings, type FileReading } from '#core/dataset/upload.ts';
import { SelectField, TextField } from '../ui/field.tsx';
import { Section } from '../ui/page.tsx';

const delimiters = [
  [',', 'commas'],
  [';', 'semicolons'],
  ['\t', 'tabs'],
  ['|', 'bars'],
  [' ', 'spaces'],
] as const;
const quotes = [
  ['"', 'double quotes'],
  ["'", 'single quotes'],
  ['', 'nothing'],
] as const;

/** How the file is read: found out from the file, and corrected here. */
export function ReadingFields({
  reading,
  sheets = [],
  onRead,
}: {
  reading: FileReading;
  sheets?: readonly string[] | undefined;
  onRead: (reading: FileReading) => void;
}) {
  if (reading.kind === 'sheet')
    return (
      <Section title="How it is read" note="Found out from the file; correct what is wrong.">
        <div className="grid grid-cols-2 gap-3">
          <SelectField
            label="Sheet"
            value={reading.sheet}
            onChange={({ target }) => onRead({ kind: 'sheet', sheet: target.value })}
          >
            {sheets.map((sheet) => (
              <option key={sheet}>{sheet}</option>
            ))}
          </SelectField>
          <TextField
            key={`${reading.sheet} ${reading.header}`}
            label="The row that names the fields"
            type="number"
            min={1}
            max={1000}
            defaultValue={reading.header}
            onBlur={({ target }) => {
              const header = Math.trunc(target.valueAsNumber);
              if (header >= 1 && header <= 1000 && header !== reading.header) onRead({ ...reading, header });
            }}
          />
        </div>
      </Section>
    );
  if (reading.kind !== 'delimited')
    return (
      <Section title="How it is read">
        <p>{reading.kind === 'json' ? 'As JSON.' : 'As Parquet, with the types it says.'}</p>
      </Section>
    );
  const known = delimiters.some(([value]) => value === reading.delimiter);
  return (
    <Section title="How it is read" note="Found out from the file; correct what is wrong.">
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Fields are parted by"
          value={reading.delimiter ?? ','}
          onChange={({ target }) => onRead({ ...reading, delimiter: target.value })}
        >
          {!known && <option value={reading.delimiter}>{reading.delimiter}</option>}
          {delimiters.map(([value, words]) => (
            <option key={words} value={value}>
              {words}
            </option>
          ))}
        </SelectField>
        <SelectField
          label="Text is held by"
          value={reading.quote ?? '"'}
          onChange={({ target }) => onRead({ ...reading, quote: target.value })}
        >
          {quotes.map(([value, words]) => (
            <option key={words} value={value}>
              {words}
            </option>
          ))}
        </SelectField>
        <SelectField
          label="The first line"
          value={reading.header ? 'names' : 'record'}
          onChange={({ target }) => onRead({ ...reading, header: target.value === 'names' })}
        >
          <option value="names">names the fields</option>
          <option value="record">is a record</option>
        </SelectField>
        <SelectField
          label="Encoding"
          value={reading.encoding ?? 'utf-8'}
          onChange={({ target }) =>
            onRead({ ...reading, encoding: encodings.find((each) => each === target.value) ?? 'utf-8' })
          }
        >
          {encodings.map((encoding) => (
            <option key={encoding} value={encoding}>
              {encoding.toUpperCase()}
            </option>
          ))}
        </SelectField>
      </div>
    </Section>
  );
}
