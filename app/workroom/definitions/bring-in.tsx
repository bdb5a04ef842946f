import { useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import type { ReviewedItem } from '#core/definitions/review.ts';
import type { OfferedSource } from '#server/definitions/bring-in.ts';
import { Button } from '../../ui/button.tsx';
import { CheckField, TextField } from '../../ui/field.tsx';
import { Section } from '../../ui/page.tsx';
import { PlainTable } from '../../ui/plain-list.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import { useEarlyFile } from '../../ui/use-early-file.ts';
import type { FileAnswer } from './file-answer.ts';

/** A source of the file: one that is here, or `new` with what its credential is. */
type Chosen = Readonly<Record<string, { readonly of: string; readonly secret: string }>>;

const largest = 20_000_000;

/** Looks at a file before anything is done, asks what its sources are here, and brings all of it in or nothing. */
export function BringIn({ desks }: { desks: readonly { id: string; name: string }[] }) {
  const fetcher = useFetcher<FileAnswer>();
  const [file, setFile] = useState<{ readonly name: string; readonly text: string } | null>(null);
  const [tooLarge, setTooLarge] = useState(false);
  const [chosen, setChosen] = useState<Chosen>({});
  const [desk, setDesk] = useState(desks[0]?.id ?? '');
  const [publishes, setPublishes] = useState(false);
  const answer = fetcher.data;
  const busy = fetcher.state !== 'idle';
  const send = (text: string, step: 'look' | 'bring in', now: Chosen): void =>
    void fetcher.submit(
      JSON.stringify({
        text,
        step,
        desk,
        publishes,
        sources: Object.fromEntries(
          Object.entries(now).map(([id, { of, secret }]) => [id, of === 'new' ? { secret } : { here: of }]),
        ),
      }),
      { method: 'post', encType: 'application/json' },
    );
  const open = async (picked: File | undefined): Promise<void> => {
    if (!picked) return;
    setTooLarge(picked.size > largest);
    if (picked.size > largest) return;
    const text = await picked.text();
    setFile({ name: picked.name, text });
    setChosen({});
    send(text, 'look', {});
  };
  const input = useRef<HTMLInputElement>(null);
  useEarlyFile(input, (picked) => void open(picked));
  const looked = answer && answer.state !== 'brought in' && answer.items ? answer : null;
  const choose = (id: string, to: Partial<Chosen[string]>): void => {
    const next = { ...chosen, [id]: { of: 'new', secret: '', ...chosen[id], ...to } };
    setChosen(next);
    // Another source may make a difference to what is new and what is not.
    if (file && to.of !== undefined && to.of !== 'new') send(file.text, 'look', next);
  };
  const isBlocked = looked?.items?.some(({ problems }) => problems.length > 0) ?? false;
  return (
    <Section title="Bring in">
      <label className="flex flex-col gap-1 pt-2">
        <span className="text-small font-strong text-slate">A file of definitions</span>
        <input
          ref={input}
          type="file"
          accept="application/json,.json"
          className="text-small file:mr-3 file:min-h-8 file:rounded-[4px] file:border file:border-line file:bg-sheet file:px-3 file:text-small file:text-ink"
          onChange={({ target }) => void open(target.files?.[0])}
        />
      </label>
      <div aria-live="polite" className="mt-4 flex flex-col gap-6">
        {tooLarge && <p className="text-broken">The file is larger than 20 MB.</p>}
        {busy && <p className="text-muted">Looking at {file?.name} …</p>}
        {!busy && answer?.state === 'refused' && (
          <div role="alert" className="border-l-3 border-broken py-1 pl-3">
            <p className="font-strong text-broken">Nothing was brought in.</p>
            <ul>
              {answer.why.map((why) => (
                <li key={why}>{why}</li>
              ))}
            </ul>
          </div>
        )}
        {!busy && answer?.state === 'brought in' && (
          <div role="status">
            <p className="mb-2 font-strong">All of it is here.</p>
            <Items items={answer.items} />
          </div>
        )}
        {looked && file && (
          <form
            className="flex flex-col gap-5"
            onSubmit={(event) => {
              event.preventDefault();
              send(file.text, 'bring in', { ...likely(looked.sources ?? []), ...chosen });
            }}
          >
            <div className="grid gap-x-6 gap-y-4 sm:grid-cols-2">
              {(looked.sources ?? []).map((source) => (
                <SourceChoice
                  key={source.id}
                  source={source}
                  chosen={chosen[source.id]}
                  onChoose={(to) => choose(source.id, to)}
                />
              ))}
            </div>
            <Items items={looked.items ?? []} />
            <div className="flex max-w-md flex-col gap-3">
              {desks.length > 1 && (
                <SelectField
                  label="New dashboards go on"
                  value={desk}
                  onChange={setDesk}
                  choices={desks.map(({ id, name }) => ({ value: id, words: name }))}
                />
              )}
              <CheckField
                checked={publishes}
                onChange={({ target }) => setPublishes(target.checked)}
                label="Publish the dashboards at once"
              />
            </div>
            <Button type="submit" look="main" className="self-start" disabled={busy || isBlocked}>
              {busy ? 'Wait …' : 'Bring it in'}
            </Button>
            {isBlocked && (
              <p className="text-small text-broken">
                What is marked above has to be mended in the file first.
              </p>
            )}
          </form>
        )}
      </div>
    </Section>
  );
}

/** Those that are meant by their id or name. */
const likely = (sources: readonly OfferedSource[]): Chosen =>
  Object.fromEntries(sources.map(({ id, likely: of }) => [id, { of: of ?? 'new', secret: '' }]));

function SourceChoice({
  source: { name, problem, here, likely: guess },
  chosen,
  onChoose,
}: {
  source: OfferedSource;
  chosen: Chosen[string] | undefined;
  onChoose: (to: Partial<Chosen[string]>) => void;
}) {
  const of = chosen?.of ?? guess ?? 'new';
  const canBeNew = problem === null && guess === null;
  return (
    <fieldset className="flex min-w-0 flex-col gap-3">
      <SelectField
        label={`The source “${name}” is here`}
        value={of}
        onChange={(value) => onChoose({ of: value })}
        problem={of === 'new' && !canBeNew ? (problem ?? undefined) : undefined}
        choices={[
          ...here.map((each) => ({ value: each.id, words: each.name })),
          ...(canBeNew || here.length === 0 ? [{ value: 'new', words: 'a new one, as in the file' }] : []),
        ]}
      />
      {of === 'new' && canBeNew && (
        <TextField
          label={`Password or key of “${name}”`}
          type="password"
          autoComplete="off"
          hint="Tested before anything is brought in; then encrypted."
          value={chosen?.secret ?? ''}
          onChange={({ target }) => onChoose({ of: 'new', secret: target.value })}
        />
      )}
    </fieldset>
  );
}

const words = {
  new: { tone: 'moving', word: 'New' },
  changed: { tone: 'slipping', word: 'Changes' },
  same: { tone: 'settled', word: 'The same' },
} as const;

/** What would be otherwise comes first. */
const rank = ({ state, problems }: ReviewedItem): number =>
  problems.length > 0 ? 0 : ['new', 'changed', 'same'].indexOf(state) + 1;

function Items({ items }: { items: readonly ReviewedItem[] }) {
  const inOrder = [...items].sort((a, b) => rank(a) - rank(b));
  return (
    <PlainTable heads={['What', 'Name', 'Here', 'Difference']}>
      {inOrder.map(({ kind, id, name, state, changes, problems }) => (
        <tr key={id} className="border-b border-hair align-baseline">
          <td className="py-1.5 pr-4 whitespace-nowrap text-slate">{kind}</td>
          <td className="py-1.5 pr-4">{name}</td>
          <td className="py-1.5 pr-4 whitespace-nowrap">
            <StateMark {...words[state]} />
          </td>
          <td className="py-1.5 text-small text-slate">
            {changes.join(' ')}
            {problems.map((problem) => (
              <span key={problem} className="block text-broken">
                {problem}
              </span>
            ))}
          </td>
        </tr>
      ))}
    </PlainTable>
  );
}
