import { unlikePanes } from '#core/dashboard/flow/unlike.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { OpenDashboard } from './context.ts';
import { runPane } from './run.ts';

/** A pane as an edition of a dashboard has it, with the records of now. */
export interface BesidePane {
  readonly pane: Pane;
  readonly result: PaneResult;
}

/** A pane that two editions do not show alike; null in the one that does not have it. */
export interface Beside {
  readonly id: string;
  readonly before: BesidePane | null;
  readonly after: BesidePane | null;
}

/** The panes that two editions of a dashboard do not show alike, each asked for in the scope of its own. */
export async function besideEachOther(
  before: Pick<OpenDashboard, 'context'>,
  after: Pick<OpenDashboard, 'context'>,
  signal: AbortSignal,
): Promise<Beside[]> {
  const asked = async (
    pane: Pane | null,
    { context }: Pick<OpenDashboard, 'context'>,
  ): Promise<BesidePane | null> => pane && { pane, result: await runPane({ pane, context, signal }) };
  return Promise.all(
    unlikePanes(before.context, after.context).map(async ({ id, before: was, after: is }) => {
      const [old, now] = await Promise.all([asked(was, before), asked(is, after)]);
      return { id, before: old, after: now };
    }),
  );
}
