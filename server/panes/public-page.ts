import type { Asker } from '#core/ask/condition/resolve.ts';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { scopeSegments } from '#core/dashboard/flow/words/scope.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { asksOnly } from '#core/dashboard/pane/uses.ts';
import { type RecordNames, recordNames } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { may } from '../permission.ts';
import { findUser } from '../store/people.ts';
import { publicLinkOf } from '../store/public-links.ts';
import { openDashboard } from './context.ts';
import { withPicked } from './picked.ts';
import { runPane } from './run.ts';

/* A dashboard as a link shows it to whoever has that: in one scope, and nothing in it leads further. */

/** Nobody in particular, of whom nothing is known. */
const anybody: Asker = { name: '', email: '' };

/** Why no link can show a dashboard, or null: what goes by who asks is for nobody in particular. */
export function notForEverybody(dataSets: Iterable<DataSet>): string | null {
  for (const { rowRule, noun } of dataSets)
    if (rowRule) return `who sees which ${noun.many} goes by who asks, so they cannot be shown to everybody`;
  return null;
}

/** What is sent of it: what it shows, and nothing by which more could be asked. */
export interface PublicPage {
  readonly title: string;
  readonly desk: { readonly name: string; readonly zone: string };
  /** What it shows, as one sentence. */
  readonly scope: string;
  /** It shows one pane, and nothing around it. */
  readonly isOnePane: boolean;
  /** ISO 8601. */
  readonly now: string;
  readonly endsAt: string;
  readonly panes: readonly { readonly pane: Pane; readonly result: PaneResult }[];
  readonly records: RecordNames;
}

const notHere: PaneResult = {
  state: 'failed',
  problem: {
    code: 'internal',
    doing: 'showing this pane',
    why: 'it could not be asked for',
    mend: 'Reload the page to try again.',
  },
};

/** The page that a link leads to; null where it leads to none any more, or whoever made it may no longer build there. */
export async function publicPage(token: string, now: Date, signal: AbortSignal): Promise<PublicPage | null> {
  const link = await publicLinkOf(token);
  const maker = link && (await findUser(link.madeBy));
  if (!link || !maker || !may(maker, 'build', { desk: link.deskId })) return null;
  const params = new URLSearchParams(link.search);
  const opened = await openDashboard({ id: link.dashboardId }, 'published', params, now, anybody);
  if (!opened || notForEverybody(opened.shown.dataSets.values()) !== null) return null;
  const context = await withPicked(opened.context, signal);
  const { dashboard, dataSets } = context;
  const shown = dashboard.panes.filter(
    (pane) => (link.pane === null || pane.id === link.pane) && !asksOnly(pane),
  );
  const results = await Promise.all(
    shown.map(async (pane) => ({
      pane: kindOf(pane).forReaders(pane),
      result: await runPane({ pane, context, signal }),
    })),
  );
  const used = usedDataSets({ scope: [], panes: shown });
  return {
    title: dashboard.title,
    desk: { name: opened.shown.desk.name, zone: opened.shown.desk.zone },
    scope: scopeSegments(context)
      .map(({ text }) => text)
      .join(''),
    isOnePane: link.pane !== null,
    now: now.toISOString(),
    endsAt: link.endsAt.toISOString(),
    // Nothing can be picked, so what waits for that would wait for ever.
    panes: results
      .filter(({ result }) => result.state !== 'waiting')
      .map(({ pane, result }) => ({ pane, result: withoutSource(result) })),
    records: recordNames([...dataSets].filter(([id]) => used.includes(id))),
  };
}

/** What failed, without the words of the source: those are for people of the desk. */
const withoutSource = (result: PaneResult): PaneResult => (result.state === 'failed' ? notHere : result);
