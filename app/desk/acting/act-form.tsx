import { type FormEvent, useEffect, useId, useRef } from 'react';
import type { AskedField, ChangeAnswer, ChangeLook, ConflictShown } from '#core/change/answer.ts';
import { wrongAsTyped } from '#core/change/as-typed.ts';
import type { Values } from '#core/change/change.ts';
import { inGroups } from '#core/value/field/groups.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { capital } from '#core/words/capital.ts';
import { Button } from '../../ui/button.tsx';
import { useFocusInSheet } from '../../ui/focus.ts';
import { box, Frame } from '../../ui/labelled.tsx';
import { ProblemMessage, Wrong } from '../../ui/message.tsx';
import { ValueInput } from '../../ui/value-input.tsx';
import { LineRows } from './line-rows.tsx';
import type { FormLine, useAct } from './use-act.ts';
import { whyNotMade } from './use-acting.ts';

/** This many of the records are named. */
const mostNamed = 6;

/** What was wrong with values that are still as they were sent; of one that was changed meanwhile nothing is known yet. */
const stillSo = (
  wrong: Readonly<Record<string, string>>,
  sent: Values,
  now: Values,
): Record<string, string> =>
  Object.fromEntries(Object.entries(wrong).filter(([name]) => sent[name] === now[name]));

/** What was wrong with the lines that are still as they were sent, by line. */
function linesWrong(
  answer: ChangeAnswer | null,
  sent: readonly FormLine[],
  now: readonly FormLine[],
): Readonly<Record<string, Readonly<Record<string, string>>>> {
  if (answer?.state !== 'wrong') return {};
  return Object.fromEntries(
    sent.map(({ id, values }, at) => [
      id,
      stillSo(answer.lines?.[at] ?? {}, values, now.find((line) => line.id === id)?.values ?? {}),
    ]),
  );
}

/** What an action asks for, as controls. */
const asked = 'fieldset :is(input, textarea, button)';

/** What an action is about to do, what it asks for, the button that does it, and what became of it. `onClose`: how it is left, where it can be. */
export function ActForm({
  act: { look, values, lines, sent, sentLines, fill, fillLines, left, leave, answer, busy, send },
  zone,
  onClose,
}: {
  act: ReturnType<typeof useAct>;
  zone: string;
  onClose: (() => void) | null;
}) {
  const isNew = look?.way === 'insert';
  const form = useRef<HTMLFormElement>(null);
  // Over the page it is all there is to do; in its place on the page nobody has come for it yet.
  useFocusInSheet(form, onClose !== null && look !== null, asked);
  useEffect(() => {
    if (answer?.state === 'wrong')
      form.current?.querySelector<HTMLElement>(':is(input, textarea, button)[aria-invalid="true"]')?.focus();
  }, [answer]);
  const sendAll = (event: FormEvent): void => {
    event.preventDefault();
    if (look) void send(look.records);
  };
  const sendOver = (conflicts: readonly ConflictShown[]): void =>
    void send(asTheyAre(look?.records ?? [], conflicts));
  /** Those that were not changed, and no others. */
  const sendAgain = (keys: readonly string[]): void =>
    void send((look?.records ?? []).filter(({ key }) => keys.includes(key)));
  const nothing = look !== null && !isNew && look.records.length === 0;
  const problems = answer?.state === 'wrong' ? stillSo(answer.wrong, sent, values) : {};
  const typed = look && left.size > 0 ? wrongAsTyped(look, values, zone) : {};
  if (!look)
    return busy ? (
      <p className="text-muted">Looking at the records …</p>
    ) : (
      answer?.state === 'failed' && (
        <ProblemMessage problem={answer.problem}>
          {onClose && (
            <Button className="mt-2 self-start" onClick={onClose}>
              Close
            </Button>
          )}
        </ProblemMessage>
      )
    );
  if (answer?.state === 'each')
    return <Outcomes answer={answer} busy={busy} onAgain={sendAgain} onClose={onClose} />;
  if (answer?.state === 'conflict')
    return (
      <Conflicts
        conflicts={answer.conflicts}
        left={look.records.length - answer.conflicts.filter(({ is }) => is === null).length}
        label={look.label}
        busy={busy}
        onOver={() => sendOver(answer.conflicts)}
        onClose={onClose}
      />
    );
  return (
    <form ref={form} className="flex flex-col gap-4" onSubmit={sendAll}>
      {(onClose || nothing) && <Meant look={look} />}
      {!nothing &&
        inGroups(look.fields).map(({ head, lines }) => (
          <fieldset key={head ?? ''} className="flex flex-col gap-4">
            {head && (
              <legend className="mb-3 w-full border-b border-hair pt-1 pb-1 font-strong">{head}</legend>
            )}
            {lines.map((each) => (
              <AskedInput
                key={each.field.name}
                query={each}
                zone={zone}
                value={values[each.field.name] ?? null}
                problem={
                  problems[each.field.name] ??
                  (left.has(each.field.name) ? typed[each.field.name] : undefined)
                }
                onChange={(value) => fill(each.field.name, value)}
                onLeave={() => leave(each.field.name)}
              />
            ))}
          </fieldset>
        ))}
      {!nothing && look.lines && (
        <LineRows
          look={look.lines}
          lines={lines}
          wrong={linesWrong(answer, sentLines, lines)}
          left={left}
          zone={zone}
          onChange={fillLines}
          onLeave={leave}
        />
      )}
      {Object.entries(problems)
        .filter(([name]) => !look.fields.some(({ field }) => field.name === name))
        .map(([name, why]) => (
          <Wrong key={name}>
            {name}: {why}
          </Wrong>
        ))}
      {answer?.state === 'failed' && <ProblemMessage problem={answer.problem} />}
      {answer?.state === 'unknown' && (
        <p role="alert" className="border-l-3 border-slipping pl-3">
          It was sent, and {whyNotMade(answer)}.
        </p>
      )}
      <div className="flex gap-2">
        {!nothing && (onClose === null || answer?.state !== 'unknown') && (
          <Button
            type="submit"
            look="main"
            disabled={busy}
            autoFocus={onClose !== null && look.fields.length === 0}
          >
            {busy ? 'Sending …' : look.label}
          </Button>
        )}
        {onClose && (
          <Button look="quiet" onClick={onClose}>
            {nothing || answer?.state === 'unknown' ? 'Close' : 'Cancel'}
          </Button>
        )}
      </div>
    </form>
  );
}

function Meant({ look: { label, sentence, records, leftOut, noun, way, oneByOne } }: { look: ChangeLook }) {
  if (way !== 'insert' && records.length === 0)
    return (
      <p>
        “{label}” is not offered for {leftOut === 1 ? `this ${noun.one}` : `any of these ${noun.many}`} now.
      </p>
    );
  return (
    <div className="flex flex-col gap-1">
      <p className="text-lead">{sentence}</p>
      {oneByOne && (
        <p className="text-small text-slate">
          They are sent one by one. If one cannot be changed, the others still are.
        </p>
      )}
      {leftOut > 0 && (
        <p className="text-slipping">
          {counted(leftOut, noun.one, noun.many)} {leftOut === 1 ? 'is' : 'are'} left as{' '}
          {leftOut === 1 ? 'it is' : 'they are'}: it is not offered for {leftOut === 1 ? 'it' : 'them'} now.
        </p>
      )}
      <p className="text-small text-muted">
        {records
          .slice(0, mostNamed)
          .map(({ title }) => title)
          .join(' · ')}
        {records.length > mostNamed && ` and ${formatNumber(String(records.length - mostNamed))} more`}
      </p>
    </div>
  );
}

function AskedInput({
  query: { field, label, isRequired, choices, longest },
  zone,
  value,
  problem,
  onChange,
  onLeave,
}: {
  query: AskedField;
  zone: string;
  value: string | null;
  problem: string | undefined;
  onChange: (value: string | null) => void;
  onLeave: () => void;
}) {
  const id = useId();
  return (
    <Frame
      id={id}
      label={`${label}${field.unit ? ` (${field.unit})` : ''}${isRequired ? '' : ', may be blank'}`}
      hint={field.type === 'instant' ? `By the clocks of ${zone}.` : undefined}
      problem={problem && `${capital(problem.replace(/\.$/, ''))}.`}
    >
      <ValueInput
        id={id}
        field={field}
        choices={choices}
        value={value}
        mayBeBlank={!isRequired}
        zone={zone}
        onChange={onChange}
        className={box}
        onBlur={onLeave}
        aria-invalid={problem !== undefined}
        {...(longest === null ? {} : { maxLength: longest })}
      />
    </Frame>
  );
}

/** What became of records that were sent one by one. */
function Outcomes({
  answer: { words, notMade },
  busy,
  onAgain,
  onClose,
}: {
  answer: Extract<ChangeAnswer, { state: 'each' }>;
  busy: boolean;
  onAgain: (keys: readonly string[]) => void;
  onClose: (() => void) | null;
}) {
  const again = notMade.filter(({ isKnown }) => isKnown).map(({ key }) => key);
  return (
    <div role="alert" className="flex flex-col gap-3">
      <p className="text-lead">{words}</p>
      <ul className="flex max-h-64 flex-col gap-1 overflow-auto">
        {notMade.map(({ key, title, isKnown, why }) => (
          <li key={key} className={`border-l-3 pl-3 ${isKnown ? 'border-broken' : 'border-slipping'}`}>
            <span className="font-strong">{title}</span>{' '}
            {isKnown ? 'was not changed' : 'may have been changed'}
            <span className="block text-small text-slate">{why}</span>
          </li>
        ))}
      </ul>
      <div className="flex gap-2">
        {again.length > 0 && (
          <Button look="main" disabled={busy} onClick={() => onAgain(again)}>
            {again.length === 1 ? 'Try that one again' : `Try those ${again.length} again`}
          </Button>
        )}
        {onClose && (
          <Button look="quiet" onClick={onClose}>
            Close
          </Button>
        )}
      </div>
    </div>
  );
}

/** Records as they are now, those that are gone left out: whoever agrees to go on has seen that. */
export function asTheyAre<T extends { readonly key: string; readonly saw: Values }>(
  records: readonly T[],
  conflicts: readonly ConflictShown[],
): T[] {
  const now = new Map(conflicts.map(({ key, is }) => [key, is]));
  return records.flatMap((record) => {
    const is = now.get(record.key);
    return is === null ? [] : [{ ...record, saw: is ?? record.saw }];
  });
}

/** Records that somebody else has changed meanwhile, and whether to go on all the same. */
export function Conflicts({
  conflicts,
  left,
  label,
  busy,
  onOver,
  onClose,
}: {
  conflicts: readonly ConflictShown[];
  /** How many records are still there. */
  left: number;
  label: string;
  busy: boolean;
  onOver: () => void;
  onClose: (() => void) | null;
}) {
  return (
    <div role="alert" className="flex flex-col gap-3">
      <p className="text-lead">
        Somebody changed {conflicts.length === 1 ? 'one of them' : `${conflicts.length} of them`} meanwhile.
        Nothing was done.
      </p>
      <ul className="flex max-h-64 flex-col gap-1 overflow-auto">
        {conflicts.map(({ key, title, fields }) => (
          <li key={key} className="border-l-3 border-slipping pl-3">
            <span className="font-strong">{title}</span>
            {fields === null
              ? ' no longer exists.'
              : fields.map(({ label: name, saw, is }) => (
                  <span key={name} className="block text-small">
                    {name}: you saw “{saw}”, it is “{is}” now.
                  </span>
                ))}
          </li>
        ))}
      </ul>
      <div className="flex gap-2">
        {left > 0 && (
          <Button look="main" disabled={busy} onClick={onOver}>
            {label} all the same
          </Button>
        )}
        {onClose && (
          <Button look="quiet" onClick={onClose}>
            Cancel
          </Button>
        )}
      </div>
    </div>
  );
}
