import { encodings, type FileReading } from '#core/dataset/upload.ts';
import { formatNumber } from '#core/format/format.ts';
import type { SeenFile } from '#server/uploads/look.ts';
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
  lists = [],
  onRead,
}: {
  reading: FileReading;
  lists?: SeenFile['lists'];
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
          {reading.total && (
            <SelectField
              label="The last row, a total,"
              value={reading.total}
              onChange={({ target }) =>
                onRead({ ...reading, total: target.value === 'kept' ? 'kept' : 'left out' })
              }
            >
              <option value="left out">is left out</option>
              <option value="kept">is a record</option>
            </SelectField>
          )}
        </div>
      </Section>
    );
  if (reading.kind === 'json' && lists.length > 0) {
    const at = JSON.stringify(reading.at ?? []);
    return (
      <Section title="How it is read" note="Found out from the file; correct what is wrong.">
        <SelectField
          label="The records are"
          value={at}
          onChange={({ target }) => onRead({ kind: 'json', at: JSON.parse(target.value) as string[] })}
        >
          {lists.map((list) => (
            <option key={JSON.stringify(list.at)} value={JSON.stringify(list.at)}>
              the {formatNumber(String(list.records))} in {list.at.join(' › ')}
            </option>
          ))}
          <option value="[]">the file as a whole, which is one</option>
        </SelectField>
      </Section>
    );
  }
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
          label="Fields are separated by"
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
          label="Text is quoted with"
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
        <TextField
          key={reading.skip}
          label="Lines left out before it"
          hint="Titles above the table."
          type="number"
          min={0}
          max={1000}
          defaultValue={reading.skip ?? 0}
          onBlur={({ target }) => {
            const skip = Math.trunc(target.valueAsNumber);
            if (skip >= 0 && skip <= 1000 && skip !== (reading.skip ?? 0)) onRead({ ...reading, skip });
          }}
        />
        <SelectField
          label="Encoding"
          value={reading.encoding ?? 'utf-8'}
          onChange={({ target }) =>
            // What was found in letters read wrongly is found again.
            onRead({
              kind: 'delimited',
              encoding: encodings.find((each) => each === target.value) ?? 'utf-8',
            })
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
