import { z } from 'zod';
import type { ChangeAnswer } from '#core/change/answer.ts';
import { AskedChange } from '#core/change/asked.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { blockSubjectOf, compareWithBlock, sendBlock } from '#server/change/block.ts';
import { lookAt } from '#server/change/look.ts';
import { type Sender, sendChange, undoChange } from '#server/change/send.ts';
import { subjectOf } from '#server/change/subject.ts';
import { guardedAction, postOnlyTo, type Signed, to } from '#server/guard.ts';
import { withPicked } from '#server/panes/picked.ts';
import { onlyLookedAt, openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-act';

export const loader = postOnlyTo(to('act', 'the dashboard'));

/** Says what a change would do, does it, or takes it back; as the dashboard offers it, and never anything else. */
export const action = guardedAction(
  to('act', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.ActionArgs>): Promise<ChangeAnswer> => {
    const doing = 'changing records';
    const asked = AskedChange.safeParse(await request.json().catch(() => null));
    if (!asked.success) {
      const why = z.prettifyError(asked.error);
      return {
        state: 'failed',
        problem: { code: 'bad-request', doing, why, mend: 'Reload the page and try again.' },
      };
    }
    try {
      const looked = await openForView(params.id, request, user, context);
      const problem = onlyLookedAt(looked, doing);
      if (problem) return { state: 'failed', problem };
      const { opened } = looked;
      const picked = await withPicked(opened.context, request.signal);
      const sender: Sender = {
        user,
        deskId: opened.shown.desk.id,
        dashboardId: opened.shown.id,
        context: picked,
      };
      const { data: said } = asked;
      if (said.ask === 'undo') return await undoChange(said, sender);
      if (said.ask === 'compare')
        return {
          state: 'compared',
          look: await compareWithBlock(blockSubjectOf(said.pane, picked), said.block, {
            ...sender,
            signal: request.signal,
          }),
        };
      if (said.ask === 'sendBlock') return await sendBlock(blockSubjectOf(said.pane, picked), said, sender);
      const subject = subjectOf(said.pane, said.do, picked);
      if (said.ask === 'send') return await sendChange(subject, said, sender);
      return { state: 'look', look: await lookAt(subject, said.keys, picked, request.signal) };
    } catch (thrown) {
      if (thrown instanceof Response) throw thrown;
      return { state: 'failed', problem: problemOf(thrown, doing) };
    }
  },
);
