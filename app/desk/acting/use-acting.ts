import { useCallback, useMemo, useRef, useState } from 'react';
import type { ChangeAnswer, RowsAnswer } from '#core/change/answer.ts';
import type { AskedChange } from '#core/change/asked.ts';
import { setEdition } from '#core/dashboard/edition.ts';
import { scopeParams } from '#core/dashboard/scope/address.ts';
import type { DashboardView } from '#server/panes/shown.ts';
import type { PasteStart } from '../../panes/view.ts';
import { here } from '../../ui/here.ts';
import { newId } from '../../ui/new-id.ts';
import { lostProblem } from '../../ui/use-question.ts';

/* What a reader does to records: an action that is asked about first, a field in its place, and taking back what was done. */

/** An action that somebody wants to do, and to what. */
export interface AskedAct {
  readonly pane: string;
  readonly action: string;
  readonly keys: readonly string[] | 'all';
  /** Told once it is done. */
  readonly onDone?: () => void;
}

/** Rows of a spreadsheet that somebody is about to paste into a pane. */
export interface AskedPaste {
  readonly pane: string;
  /** What was pasted already: a text with its heads, or cells onto those of records. */
  readonly start: PasteStart | null;
  /** New records can be added as well as those that are there changed. */
  readonly mayAdd: boolean;
  readonly mayChange: boolean;
}

/** A field of a record that somebody changes where it stands. */
export interface InPlace {
  readonly pane: string;
  readonly key: string;
  readonly field: string;
  readonly saw: string | null;
  readonly value: string | null;
}

/** What is told at the foot of the page after something was done. */
export interface Notice {
  readonly words: string;
  /** The batch that can be taken back; null where none can. */
  readonly undo: string | null;
  readonly isBad: boolean;
}

export type PostChange = (query: AskedChange) => Promise<ChangeAnswer>;

/** Has the rows of a spreadsheet read, as CSV. */
export type ReadRows = (file: File) => Promise<RowsAnswer>;

/** Whether it may have arrived although no answer did: then the same has to be sent again under the same name. */
export const isLost = (answer: ChangeAnswer): boolean =>
  answer.state === 'failed' && answer.problem.code === 'unreachable' && answer.problem.doing === sending;

const sending = 'sending the change';

const lost: ChangeAnswer = {
  state: 'failed',
  problem: lostProblem(sending, 'Send it again: what has arrived already is not done twice.'),
};

/** Why a change was not made, in words; null where it was. */
export function whyNotMade(answer: ChangeAnswer): string | null {
  switch (answer.state) {
    case 'failed':
      return `${answer.problem.why}. ${answer.problem.mend}`;
    case 'wrong':
      return Object.values(answer.wrong).join('; ');
    case 'conflict': {
      const [first] = answer.conflicts;
      const [field] = first?.fields ?? [];
      if (!field) return 'somebody removed it meanwhile';
      return `somebody changed it meanwhile: ${field.label.toLowerCase()} is “${field.is}” now`;
    }
    case 'each':
      return answer.notMade.map(({ title, why }) => `${title}: ${why}`).join(' ');
    case 'unknown':
      return 'the connection to the source was lost at the end; whether it was made is found out and stands in the record’s history';
    default:
      return null;
  }
}

export function useActing(
  { id, edition }: Pick<DashboardView, 'id' | 'edition'>,
  search: string,
  onSignedOut: () => void,
) {
  const [intent, setIntent] = useState<AskedAct | null>(null);
  const [pasting, setPasting] = useState<AskedPaste | null>(null);
  const [notice, setNotice] = useState<Notice | null>(null);
  const address = useRef('');
  /** When something was sent last, as `performance.now()` has it. */
  const sentAt = useRef(0);
  const rowsAddress = here(`/view/${id}/rows`);
  const params = scopeParams(search);
  setEdition(params, edition);
  address.current = here(`/view/${id}/act?${params}`);

  const post: PostChange = useCallback(
    async (body) => {
      sentAt.current = performance.now();
      try {
        const response = await fetch(address.current, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify(body),
        });
        if (response.redirected || response.status === 401) {
          onSignedOut();
          return lost;
        }
        return response.ok ? ((await response.json()) as ChangeAnswer) : lost;
      } catch {
        return lost;
      }
    },
    [onSignedOut],
  );
  const readRows: ReadRows = useCallback(
    async (file) => {
      try {
        const response = await fetch(rowsAddress, { method: 'POST', body: file });
        if (response.redirected || response.status === 401) onSignedOut();
        else if (response.ok) return (await response.json()) as RowsAnswer;
      } catch {
        // Said below.
      }
      return { ok: false, problem: lostProblem('sending the file', 'Choose it again.') };
    },
    [rowsAddress, onSignedOut],
  );
  const tell = useCallback((answer: ChangeAnswer): void => {
    const why = whyNotMade(answer);
    if (answer.state === 'done')
      setNotice({ words: answer.words, undo: answer.canUndo ? answer.batch : null, isBad: false });
    else if (answer.state === 'each')
      setNotice({
        words: `${answer.words} Not done: ${why}`,
        undo: answer.canUndo ? answer.batch : null,
        isBad: true,
      });
    else if (why !== null) setNotice({ words: `Not done: ${why}`, undo: null, isBad: true });
  }, []);
  const undo = useCallback(
    async (of: string): Promise<void> => {
      setNotice(null);
      tell(await post({ ask: 'undo', batch: newId(), of }));
    },
    [post, tell],
  );
  const change = useCallback(
    async ({ pane, key, field, saw, value }: InPlace): Promise<string | null> => {
      const answer = await post({
        ask: 'send',
        batch: newId(),
        pane,
        do: { field },
        records: [{ key, saw: { [field]: saw } }],
        values: { [field]: value },
      });
      if (answer.state === 'done') tell(answer);
      return whyNotMade(answer);
    },
    [post, tell],
  );
  return useMemo(
    () => ({
      intent,
      setIntent,
      pasting,
      setPasting,
      notice,
      setNotice,
      post,
      sentAt,
      readRows,
      tell,
      undo,
      change,
    }),
    [intent, pasting, notice, post, readRows, tell, undo, change],
  );
}
