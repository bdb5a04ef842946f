import type { LineFormat, LineKind } from '#core/dataset/log/schema.ts';
import type { Request } from '#core/dataset/schema.ts';
import { choicesOf } from '../../../ui/choice.tsx';
import { CheckField, TextField } from '../../../ui/field.tsx';
import { Section } from '../../../ui/page.tsx';
import { SelectField } from '../../../ui/select-field.tsx';

type LogRequest = Extract<Request, { kind: 'log' }>;

const lineWords: Record<LineKind, string> = {
  json: 'one JSON object',
  pairs: 'key=value pairs',
  common: 'Common Log Format of a web server',
  combined: 'Combined Log Format of a web server',
  syslog: 'syslog (RFC 5424)',
  delimited: 'values with something between',
  pattern: 'a pattern of your own',
};

function emptyLine(kind: string): LineFormat {
  switch (kind) {
    case 'pairs':
    case 'common':
    case 'combined':
    case 'syslog':
      return { kind };
    case 'delimited':
      return { kind, delimiter: ',', names: ['field_1', 'field_2'] };
    case 'pattern':
      return { kind, pattern: '^(?<at>\\S+) (?<level>\\S+) (?<message>.*)$' };
    default:
      return { kind: 'json' };
  }
}

/** Which files, and how a line of them becomes a record. */
export function LogForm({
  request,
  onChange,
}: {
  request: LogRequest;
  onChange: (request: LogRequest) => void;
}) {
  const { line, first } = request;
  const withLine = (next: LineFormat): void => onChange({ ...request, line: next });
  return (
    <Section
      title="Which lines"
      note="Files are followed as they grow, also when they are renamed or packed."
    >
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="Files"
            hint="* stands for anything, ** for any folders."
            className="font-mono"
            value={request.files}
            maxLength={1000}
            onChange={({ target }) => onChange({ ...request, files: target.value })}
          />
          <SelectField
            label="A line is"
            value={line.kind}
            onChange={(chosen) => withLine(emptyLine(chosen))}
            choices={choicesOf(lineWords)}
          />
        </div>
        {line.kind === 'pattern' && (
          <TextField
            label="Pattern"
            hint="A regular expression by RE2’s rules; (?<name>…) stands around what becomes a field."
            className="font-mono"
            value={line.pattern}
            maxLength={5000}
            spellCheck={false}
            onChange={({ target }) => withLine({ ...line, pattern: target.value })}
          />
        )}
        {line.kind === 'delimited' && (
          <div className="grid grid-cols-[8rem_1fr] gap-3">
            <TextField
              label="Between values"
              className="font-mono"
              value={line.delimiter}
              maxLength={4}
              onChange={({ target }) => withLine({ ...line, delimiter: target.value })}
            />
            <TextField
              label="Names, with commas between"
              value={line.names.join(', ')}
              onChange={({ target }) =>
                withLine({ ...line, names: target.value.split(',').map((name) => name.trim()) })
              }
            />
          </div>
        )}
        <div className="grid grid-cols-2 items-end gap-3">
          <CheckField
            label="A record can be several lines"
            checked={first !== undefined}
            onChange={() => {
              const { first: _, ...rest } = request;
              onChange(first === undefined ? { ...request, first: '^\\d{4}-' } : rest);
            }}
          />
          {first !== undefined && (
            <TextField
              label="Its first line looks like"
              className="font-mono"
              value={first}
              maxLength={5000}
              spellCheck={false}
              onChange={({ target }) => onChange({ ...request, first: target.value || '^' })}
            />
          )}
        </div>
      </div>
    </Section>
  );
}
