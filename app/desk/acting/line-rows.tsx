import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { type ReactNode, useEffect, useId, useRef } from 'react';
import type { LinesLook } from '#core/change/answer.ts';
import { wrongAsTyped } from '#core/change/as-typed.ts';
import { mostLines } from '#core/dataset/change/schema.ts';
import { capital } from '#core/words/capital.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { box } from '../../ui/labelled.tsx';
import { ValueInput } from '../../ui/value-input.tsx';
import { type FormLine, isFilled, newLine } from './use-act.ts';

type Wrong = Readonly<Record<string, string>>;

/** The control of a line that has the keyboard when somebody comes to it. */
const firstOf = (body: HTMLElement | null, id: string): HTMLElement | null =>
  body?.querySelector<HTMLElement>(`[data-line="${id}"] :is(input, select, button)`) ?? null;

/** Records that are added together with one, a row for each: a requisition with its lines. */
export function LineRows({
  look,
  lines,
  wrong,
  left,
  zone,
  onChange,
  onLeave,
}: {
  look: LinesLook;
  lines: readonly FormLine[];
  /** What was wrong with what was sent, by line and field. */
  wrong: Readonly<Record<string, Wrong>>;
  /** The fields of lines that somebody has filled in and gone on from. */
  left: ReadonlySet<string>;
  zone: string;
  onChange: (lines: readonly FormLine[]) => void;
  onLeave: (place: string) => void;
}) {
  const { noun, fields } = look;
  const id = useId();
  const body = useRef<HTMLTableSectionElement>(null);
  const adding = useRef<HTMLButtonElement>(null);
  /** A line that was added just now. */
  const come = useRef<string | null>(null);
  useEffect(() => {
    if (come.current === null) return;
    firstOf(body.current, come.current)?.focus();
    come.current = null;
  });
  const add = (): void => {
    const line = newLine();
    come.current = line.id;
    onChange([...lines, line]);
  };
  const remove = (gone: string): void => {
    onChange(lines.filter((line) => line.id !== gone));
    adding.current?.focus();
  };
  const placeOf = (line: FormLine, field: string): string => `${line.id}.${field}`;
  const wrongOf = (line: FormLine): Wrong => {
    if (!isFilled(line)) return {};
    const typed = wrongAsTyped({ ...look, records: [], way: 'insert' }, line.values, zone);
    return {
      ...Object.fromEntries(Object.entries(typed).filter(([field]) => left.has(placeOf(line, field)))),
      ...wrong[line.id],
    };
  };
  return (
    <fieldset className="flex min-w-0 flex-col gap-2">
      <legend className="mb-2 w-full border-b border-hair pt-1 pb-1 font-strong">{capital(noun.many)}</legend>
      {lines.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full border-separate border-spacing-0">
            <thead>
              <tr>
                {fields.map(({ field, label, isRequired }) => (
                  <th
                    key={field.name}
                    scope="col"
                    className="pr-2 pb-1 text-left align-bottom text-small font-strong text-slate"
                  >
                    {label}
                    {field.unit && ` (${field.unit})`}
                    {!isRequired && <span className="block font-normal text-muted">may be blank</span>}
                  </th>
                ))}
                <td />
              </tr>
            </thead>
            <tbody ref={body}>
              {lines.map((line, at) => {
                const problems = wrongOf(line);
                const problemId = `${id}-${line.id}`;
                return (
                  <Row
                    key={line.id}
                    line={line}
                    problemId={problemId}
                    problems={fields.flatMap(({ field, label }) => {
                      const why = problems[field.name];
                      return why === undefined ? [] : [`${label}: ${why}`];
                    })}
                    width={fields.length + 1}
                  >
                    {fields.map(({ field, label, isRequired, choices, longest }) => (
                      <td
                        key={field.name}
                        className={`pr-2 pb-2 align-top ${choices ? 'min-w-36' : 'w-28 min-w-20'}`}
                      >
                        <ValueInput
                          aria-label={`${label} of ${noun.one} ${at + 1}`}
                          field={field}
                          choices={choices}
                          value={line.values[field.name] ?? null}
                          mayBeBlank={!isRequired}
                          zone={zone}
                          className={box}
                          aria-invalid={problems[field.name] !== undefined}
                          {...(problems[field.name] === undefined ? {} : { 'aria-describedby': problemId })}
                          {...(longest === null ? {} : { maxLength: longest })}
                          onBlur={() => onLeave(placeOf(line, field.name))}
                          onChange={(value) =>
                            onChange(
                              lines.map((each) =>
                                each.id === line.id
                                  ? { ...each, values: { ...each.values, [field.name]: value } }
                                  : each,
                              ),
                            )
                          }
                        />
                      </td>
                    ))}
                    <td className="w-8 pb-2 align-top">
                      <IconButton
                        name={`Drop ${noun.one} ${at + 1}`}
                        className="mt-1"
                        onClick={() => remove(line.id)}
                      >
                        <X className="size-4" />
                      </IconButton>
                    </td>
                  </Row>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {lines.length < mostLines && (
        <Button ref={adding} look="quiet" className="-ml-3 self-start" onClick={add}>
          <Plus className="size-4" aria-hidden="true" /> Add a {noun.one}
        </Button>
      )}
    </fieldset>
  );
}

/** A line with what is wrong with it below. */
function Row({
  line,
  problemId,
  problems,
  width,
  children,
}: {
  line: FormLine;
  problemId: string;
  problems: readonly string[];
  width: number;
  children: ReactNode;
}) {
  return (
    <>
      <tr data-line={line.id}>{children}</tr>
      {problems.length > 0 && (
        <tr>
          <td colSpan={width} id={problemId} role="alert" className="pb-2 text-small text-broken">
            {problems.join('. ')}
          </td>
        </tr>
      )}
    </>
  );
}
