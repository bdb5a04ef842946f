import { type FormEvent, useCallback, useEffect, useId, useRef, useState } from 'react';
import type { BlockLook, ChangeAnswer } from '#core/change/answer.ts';
import { longestBlock, type PastedBlock } from '#core/change/asked.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { listWords } from '#core/words/condition.ts';
import { Button } from '../../ui/button.tsx';
import { box, described, Frame } from '../../ui/labelled.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { newId } from '../../ui/new-id.ts';
import { asTheyAre, Conflicts } from './act-form.tsx';
import { OverPage } from './over-page.tsx';
import { type AskedPaste, isLost, type PostChange, type ReadRows, whyNotMade } from './use-acting.ts';

/* Rows of a spreadsheet as changes: pasted or chosen as a file, compared with the records, looked at, and sent as one. */

/** What is pasted before anything is: the answer says what may be. */
const nothing: PastedBlock = { text: '', areNew: false };

/** From the rows to what became of them. What went wrong is told, and nothing pasted is lost. */
function usePaste(asked: AskedPaste, post: PostChange, onDone: (answer: ChangeAnswer) => void) {
  const { pane, start } = asked;
  const [text, setText] = useState(start?.text ?? '');
  const [areNew, setNew] = useState(!asked.mayChange);
  const [look, setLook] = useState<BlockLook | null>(null);
  const [isCompared, setCompared] = useState(false);
  const [answer, setAnswer] = useState<ChangeAnswer | null>(null);
  const [busy, setBusy] = useState(false);
  const batch = useRef(newId());
  const compare = useCallback(
    async (block: PastedBlock): Promise<void> => {
      setBusy(true);
      const found = await post({ ask: 'compare', pane, block });
      setBusy(false);
      if (found.state === 'compared') {
        setLook(found.look);
        setCompared(block !== nothing);
        setAnswer(null);
      } else setAnswer(found);
    },
    [pane, post],
  );
  useEffect(() => {
    const { text: cells = '', onto } = start ?? {};
    void compare(onto ? { text: cells, onto: { keys: [...onto.keys], fields: [...onto.fields] } } : nothing);
  }, [compare, start]);
  const send = async (changes: BlockLook['changes']): Promise<void> => {
    if (busy || !look) return;
    setBusy(true);
    const got = await post({
      ask: 'sendBlock',
      batch: batch.current,
      pane,
      changes: changes.map(({ key, saw, values }) => ({ key, saw: { ...saw }, values: { ...values } })),
      additions: look.additions.map((values) => ({ ...values })),
    });
    setBusy(false);
    // What may have arrived is sent again as the same; anything else is a change of its own.
    if (!isLost(got)) batch.current = newId();
    if (got.state === 'done' || got.state === 'each') onDone(got);
    else setAnswer(got);
  };
  const back = (): void => {
    setCompared(false);
    setAnswer(null);
  };
  return { text, setText, areNew, setNew, look, isCompared, answer, busy, compare, send, back };
}

/** Changes records from rows of a spreadsheet, over the page. */
export function PasteSheet({
  asked,
  post,
  readRows,
  onDone,
  onClose,
}: {
  asked: AskedPaste;
  post: PostChange;
  readRows: ReadRows;
  onDone: (answer: ChangeAnswer) => void;
  onClose: () => void;
}) {
  const paste = usePaste(asked, post, onDone);
  const { look, isCompared, answer, busy, send } = paste;
  const gone = answer?.state === 'conflict' ? answer.conflicts.filter(({ is }) => is === null).length : 0;
  return (
    <OverPage
      title={look ? `Change ${look.noun.many} from a spreadsheet` : 'One moment'}
      isWide
      onClose={onClose}
    >
      {answer?.state === 'conflict' ? (
        <Conflicts
          conflicts={answer.conflicts}
          left={(look?.changes.length ?? 0) + (look?.additions.length ?? 0) - gone}
          label="Change them"
          busy={busy}
          onOver={() => void send(asTheyAre(look?.changes ?? [], answer.conflicts))}
          onClose={onClose}
        />
      ) : look && isCompared ? (
        <Compared
          look={look}
          busy={busy}
          onSend={() => void send(look.changes)}
          onBack={asked.start?.onto ? null : paste.back}
          onClose={onClose}
        />
      ) : look ? (
        <RowsForm asked={asked} look={look} paste={paste} readRows={readRows} onClose={onClose} />
      ) : (
        busy && <p className="text-muted">Looking at the records …</p>
      )}
      {answer?.state === 'failed' && <ProblemMessage problem={answer.problem} />}
      {answer?.state === 'unknown' && (
        <p role="alert" className="border-l-3 border-slipping pl-3">
          It was sent, and {whyNotMade(answer)}.
        </p>
      )}
    </OverPage>
  );
}

/** What the rows may hold, in a sentence or two. */
function takenWords({ takes, noun }: BlockLook, areNew: boolean): string {
  if (areNew) return `Each row is a new ${noun.one}. It may hold ${listWords(takes.additions ?? [])}.`;
  const identity = takes.identities.join(' or ');
  return `${identity} says which ${noun.one} a row is of. These can be changed: ${listWords(takes.changes)}.`;
}

function RowsForm({
  asked: { mayAdd, mayChange },
  look,
  paste: { text, setText, areNew, setNew, busy, compare },
  readRows,
  onClose,
}: {
  asked: AskedPaste;
  look: BlockLook;
  paste: ReturnType<typeof usePaste>;
  readRows: ReadRows;
  onClose: () => void;
}) {
  const id = useId();
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<string | undefined>();
  const [reading, setReading] = useState(false);
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    if (text.trim() === '') setProblem('There is nothing to compare yet.');
    else if (text.length > longestBlock)
      setProblem('This is too much for one go. Paste fewer rows, or fewer columns.');
    else {
      setProblem(undefined);
      void compare({ text, areNew });
    }
  };
  const read = async (chosen: File | undefined): Promise<void> => {
    if (!chosen) return;
    if (chosen.size > longestBlock) return setProblem(`“${chosen.name}” is larger than 4 MB.`);
    const isSheet = (await chosen.slice(0, 4).text()) === 'PK\u0003\u0004';
    const held = isSheet ? null : await chosen.text();
    if (held?.includes('\0'))
      return setProblem(
        `“${chosen.name}” is neither CSV nor XLSX. Save it as one of these, and choose that.`,
      );
    setReading(isSheet);
    const rows = held === null ? await readRows(chosen) : ({ ok: true, text: held } as const);
    setReading(false);
    if (!rows.ok) return setProblem(`“${chosen.name}”: ${rows.problem.why}. ${rows.problem.mend}`);
    setProblem(undefined);
    setText(rows.text);
  };
  const hint = takenWords(look, areNew);
  const label = 'Rows, with their heads in the first';
  return (
    <form className="flex flex-col gap-4" onSubmit={submit}>
      {mayAdd && mayChange && (
        <fieldset className="flex flex-wrap gap-x-6 gap-y-1">
          <legend className="mb-1 text-small font-strong text-slate">The rows are</legend>
          {[
            { isNew: false, words: `${look.noun.many} of this table` },
            { isNew: true, words: `new ${look.noun.many}` },
          ].map(({ isNew, words }) => (
            <label key={words} className="flex items-center gap-2">
              <input
                type="radio"
                name={`${id}-are`}
                className="size-4 accent-[var(--accent)]"
                checked={areNew === isNew}
                onChange={() => setNew(isNew)}
              />
              {words}
            </label>
          ))}
        </fieldset>
      )}
      <Frame id={id} label={label} hint={hint} problem={problem}>
        <textarea
          id={id}
          rows={9}
          wrap="off"
          spellCheck={false}
          placeholder="Copy cells in a spreadsheet, and paste them here"
          className={`${box} figures resize-y text-small whitespace-pre [tab-size:16]`}
          value={text}
          onChange={(event) => setText(event.target.value)}
          {...described(id, { label, hint, problem })}
        />
      </Frame>
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="main" disabled={busy || reading}>
          {reading ? 'Reading …' : busy ? 'Comparing …' : 'Compare'}
        </Button>
        <Button onClick={() => file.current?.click()}>Choose a file …</Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,text/csv"
          aria-label="A CSV or XLSX file"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => {
            void read(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
        <Button look="quiet" onClick={onClose}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

/** What the button does: "Change 12 and add 3". */
function sendWords({ changes, additions }: BlockLook): string {
  const parts = [
    ...(changes.length > 0 ? [`change ${formatNumber(String(changes.length))}`] : []),
    ...(additions.length > 0 ? [`add ${formatNumber(String(additions.length))}`] : []),
  ];
  const words = parts.join(' and ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** "3 rows and 1 column are". */
function beyondWords({ rows, columns }: BlockLook['beyond']): string {
  const parts = [
    ...(rows > 0 ? [counted(rows, 'row')] : []),
    ...(columns > 0 ? [counted(columns, 'column')] : []),
  ];
  return `${parts.join(' and ')} ${rows + columns === 1 ? 'is' : 'are'}`;
}

/** What the rows would do, before anything is sent. */
function Compared({
  look,
  busy,
  onSend,
  onBack,
  onClose,
}: {
  look: BlockLook;
  busy: boolean;
  onSend: () => void;
  /** Back to the rows; null where they were pasted onto cells. */
  onBack: (() => void) | null;
  onClose: () => void;
}) {
  const { noun, changes, additions, same, unusable, unusableCount, unread, beyond, examples, oneByOne } =
    look;
  const count = changes.length + additions.length;
  const told = [
    ...(changes.length > 0 ? [`${counted(changes.length, noun.one, noun.many)} would change`] : []),
    ...(additions.length > 0 ? [`${counted(additions.length, noun.one, noun.many)} would be added`] : []),
    ...(same > 0
      ? [`${counted(same, noun.one, noun.many)} ${same === 1 ? 'has' : 'have'} these values already`]
      : []),
  ];
  return (
    <div className="flex flex-col gap-4">
      <p className="text-lead" role="status">
        {told.length > 0 ? `${told.join('. ')}.` : `None of the rows can be used.`}
      </p>
      {examples.length > 0 && <Examples look={look} count={count} />}
      {unusableCount > 0 && (
        <section className="border-l-3 border-slipping pl-3">
          <h3 className="font-strong text-slipping">{counted(unusableCount, 'row')} cannot be used</h3>
          <ul className="mt-1 flex max-h-40 flex-col gap-1 overflow-auto text-small">
            {unusable.map(({ place, identity, why }) => (
              <li key={place} className="wrap-anywhere">
                Row {place}
                {identity !== null && `, ${identity}`}: {why}.
              </li>
            ))}
            {unusableCount > unusable.length && (
              <li>and {formatNumber(String(unusableCount - unusable.length))} more</li>
            )}
          </ul>
        </section>
      )}
      {unread.length > 0 && (
        <p className="text-small text-muted">
          Not read: {unread.map(({ head, why }) => `“${head}” (${why})`).join(', ')}.
        </p>
      )}
      {beyond.rows + beyond.columns > 0 && (
        <p className="text-slipping">
          {beyondWords(beyond)} left out: {beyond.rows + beyond.columns === 1 ? 'it reaches' : 'they reach'}{' '}
          beyond what the table shows.
        </p>
      )}
      {oneByOne && (
        <p className="text-small text-slate">
          They are sent one by one. If one cannot be changed, the others still are.
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {count > 0 && (
          <Button look="main" disabled={busy} onClick={onSend} autoFocus>
            {busy
              ? 'Sending …'
              : `${sendWords(look)}${unusableCount > 0 ? `, leave out ${formatNumber(String(unusableCount))}` : ''}`}
          </Button>
        )}
        {onBack && <Button onClick={onBack}>Back to the rows</Button>}
        <Button look="quiet" onClick={onClose}>
          {count > 0 ? 'Cancel' : 'Close'}
        </Button>
      </div>
    </div>
  );
}

/** The first of the records that would be otherwise, with what they are and would be. */
function Examples({ look: { examples, noun }, count }: { look: BlockLook; count: number }) {
  return (
    <div className="flex flex-col gap-1">
      <ul className="flex max-h-72 flex-col overflow-auto border-y border-hair">
        {examples.map(({ title, isNew, fields }, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: two records may have one name, and none of them moves
          <li key={at} className="flex flex-wrap gap-x-3 border-b border-hair py-1.5 last:border-b-0">
            <span className="font-strong">{title}</span>
            {isNew && <span className="text-small text-muted">new</span>}
            <span className="flex w-full flex-wrap gap-x-4 text-small text-slate">
              {fields.map(({ label, was, is }) => (
                <span key={label}>
                  {label}: {was !== null && <s className="text-muted">{was}</s>} {is}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
      {count > examples.length && (
        <p className="text-small text-muted">
          and {counted(count - examples.length, noun.one, noun.many)} more
        </p>
      )}
    </div>
  );
}
