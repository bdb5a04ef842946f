import { z } from 'zod';
import type { ChangeAnswer } from '#core/change/answer.ts';
import { AskedChange } from '#core/change/asked.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { blockSubjectOf, compareWithBlock, sendBlock } from '#server/change/block.ts';
import { lookAt } from '#server/change/look.ts';
import { type Sender, sendChange } from '#server/change/send.ts';
import { subjectOf } from '#server/change/subject.ts';
import { undoChange } from '#server/change/undo.ts';
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
    const body = AskedChange.safeParse(await request.json().catch(() => null));
    if (!body.success) {
      const why = z.prettifyError(body.error);
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
      const { data: query } = body;
      if (query.ask === 'undo') return await undoChange(query, sender);
      if (query.ask === 'compare')
        return {
          state: 'compared',
          look: await compareWithBlock(blockSubjectOf(query.pane, picked), query.block, {
            ...sender,
            signal: request.signal,
          }),
        };
      if (query.ask === 'sendBlock')
        return await sendBlock(blockSubjectOf(query.pane, picked), query, sender);
      const subject = subjectOf(query.pane, query.do, picked);
      if (query.ask === 'send') return await sendChange(subject, query, sender);
      return { state: 'look', look: await lookAt(subject, query.keys, picked, request.signal) };
    } catch (thrown) {
      if (thrown instanceof Response) throw thrown;
      return { state: 'failed', problem: problemOf(thrown, doing) };
    }
  },
);
