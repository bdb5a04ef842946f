import { useEffect, useId, useState } from 'react';
import {
  type FollowUpAnswer,
  type FollowUpState,
  followUpLooks,
  followUpStates,
} from '#core/change/follow-up.ts';
import { formatDate, type ReadBy, zoneOf } from '#core/value/format/format.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { Button } from '../../ui/button.tsx';
import { DayInput } from '../../ui/day-input.tsx';
import { TextAreaField } from '../../ui/field.tsx';
import { box, Frame } from '../../ui/labelled.tsx';
import { ProblemMessage } from '../../ui/message.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import { lostProblem, postJson } from '../../ui/use-question.ts';
import { Files } from './files.tsx';
import { Notes } from './notes.tsx';
import { Tells } from './tells.tsx';

const nobody = '';

interface Answered {
  readonly problem: Problem | null;
}

/** Sends a note with its files, as one: it is noted with all of them, or not at all. */
function sendNote(address: string, body: object, files: readonly File[]): Promise<Answered> {
  const form = new FormData();
  form.set('said', JSON.stringify(body));
  for (const file of files) form.append('file', file);
  return postJson(address, files.length > 0 ? form : body, {
    problem: lostProblem('following up on the record'),
  });
}

/** What was said of a record, how it stands, and the form with which more is said. */
export function FollowUpPanel({
  answer: { view, people, refusal },
  dashboard,
  edition,
  about,
  by,
  onSaid,
}: {
  answer: FollowUpAnswer;
  /** The dashboard that it is looked at from, and which edition of it, as parameters of an address. */
  dashboard: string;
  edition: URLSearchParams;
  about: { readonly pane: string; readonly key: string };
  by: ReadBy;
  /** Told how the record stands once something more was said. */
  onSaid: (state: FollowUpState) => void;
}) {
  const id = useId();
  const nameOf = (person: string | null): string | null =>
    people.find((each) => each.id === person)?.name ?? null;
  const [note, setNote] = useState('');
  const [state, setState] = useState<FollowUpState>(view?.state ?? 'open');
  const [due, setDue] = useState(view?.due ?? null);
  const [givenTo, setGivenTo] = useState(view?.givenTo ?? nobody);
  const [tells, setTells] = useState<readonly string[]>([]);
  const [files, setFiles] = useState<readonly File[]>([]);
  const [turn, setTurn] = useState(0);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const address = `/view/${dashboard}/follow-up?${edition}`;
  const fileHref = (file: string): string => {
    const params = new URLSearchParams(edition);
    params.set('_pane', about.pane);
    params.set('_key', about.key);
    return `/view/${dashboard}/follow-up-file/${file}?${params}`;
  };
  const isNews = refusal === null && view?.isNews === true;
  const { pane, key } = about;
  useEffect(() => {
    if (isNews) void postJson(address, { pane, key, isSeen: true }, {});
  }, [isNews, address, pane, key]);
  const send = async (): Promise<void> => {
    if (busy) return;
    setBusy(true);
    const body = { ...about, note, state, due, givenTo: givenTo === nobody ? null : givenTo, tells };
    const answered = await sendNote(address, body, files);
    setBusy(false);
    setProblem(answered.problem);
    if (answered.problem) return;
    setNote('');
    setTells([]);
    setFiles([]);
    setTurn(turn + 1);
    onSaid(state);
  };
  return (
    <section aria-label="Follow-up" className="flex flex-col gap-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h3 className="text-body">Follow-up</h3>
        {view ? (
          <>
            <StateMark {...followUpLooks[view.state]} />
            {view.due && <span className="text-small">by {formatDate(view.due, 'short', by)}</span>}
            {nameOf(view.givenTo) && <span className="text-small">given to {nameOf(view.givenTo)}</span>}
          </>
        ) : (
          <span className="text-small text-muted">Nothing has been said of it yet.</span>
        )}
      </div>
      {refusal === null ? (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            void send();
          }}
        >
          <TextAreaField
            label="What was learnt, or is to be done"
            rows={3}
            maxLength={10_000}
            value={note}
            onChange={({ target }) => setNote(target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void send();
              // Letters are no keys of the page while they are typed.
              event.stopPropagation();
            }}
          />
          <div className="grid gap-3 sm:grid-cols-3">
            <SelectField
              label="It is then"
              value={state}
              choices={followUpStates.map((value) => ({
                value,
                words: followUpLooks[value].word.toLowerCase(),
              }))}
              onChange={setState}
            />
            <Frame id={id} label="By when">
              <DayInput key={turn} id={id} value={due} zone={zoneOf(by)} onChange={setDue} className={box} />
            </Frame>
            <SelectField
              label="Given to"
              value={givenTo}
              choices={[
                { value: nobody, words: 'nobody' },
                ...people.map((person) => ({ value: person.id, words: person.name })),
              ]}
              onChange={setGivenTo}
            />
          </div>
          <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
            <Tells people={people} told={tells} onChange={setTells} />
            <Files files={files} onChange={setFiles} />
          </div>
          {problem && <ProblemMessage problem={problem} />}
          <Button type="submit" look="main" className="self-start" disabled={busy || note.trim() === ''}>
            {busy ? 'Sending …' : 'Note it'}
          </Button>
        </form>
      ) : (
        <p className="text-small text-muted">{refusal}</p>
      )}
      {view && <Notes notes={view.notes} hrefOf={fileHref} by={by} />}
    </section>
  );
}
