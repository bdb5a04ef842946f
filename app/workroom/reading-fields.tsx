import { encodings, type FileReading } from '#core/dataset/upload.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { SeenFile } from '#server/uploads/look.ts';
import { plainChoices } from '../ui/choice.tsx';
import { TextField } from '../ui/field.tsx';
import { Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';

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
            onChange={(chosen) => onRead({ kind: 'sheet', sheet: chosen })}
            choices={plainChoices(sheets)}
          />
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
              onChange={(chosen) => onRead({ ...reading, total: chosen })}
              choices={[
                { value: 'left out', words: 'is left out' },
                { value: 'kept', words: 'is a record' },
              ]}
            />
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
          onChange={(chosen) => onRead({ kind: 'json', at: JSON.parse(chosen) as string[] })}
          choices={[
            ...lists.map((list) => ({
              value: JSON.stringify(list.at),
              words: `the ${formatNumber(String(list.records))} in ${list.at.join(' › ')}`,
            })),
            { value: '[]', words: 'the file as a whole, which is one' },
          ]}
        />
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
          onChange={(chosen) => onRead({ ...reading, delimiter: chosen })}
          choices={[
            ...(known ? [] : plainChoices([reading.delimiter ?? ''])),
            ...delimiters.map(([value, words]) => ({ value, words })),
          ]}
        />
        <SelectField
          label="Text is quoted with"
          value={reading.quote ?? '"'}
          onChange={(chosen) => onRead({ ...reading, quote: chosen })}
          choices={quotes.map(([value, words]) => ({ value, words }))}
        />
        <SelectField
          label="The first line"
          value={reading.header ? 'names' : 'record'}
          onChange={(chosen) => onRead({ ...reading, header: chosen === 'names' })}
          choices={[
            { value: 'names', words: 'names the fields' },
            { value: 'record', words: 'is a record' },
          ]}
        />
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
          onChange={(chosen) =>
            // What was found in letters read wrongly is found again.
            onRead({
              kind: 'delimited',
              encoding: chosen,
            })
          }
          choices={encodings.map((encoding) => ({ value: encoding, words: encoding.toUpperCase() }))}
        />
      </div>
    </Section>
  );
}
