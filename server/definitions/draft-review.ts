import { eq } from 'drizzle-orm';
import type { Asker } from '#core/ask/condition/resolve.ts';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { clauseField, givesInput } from '#core/dashboard/flow/clauses.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import { versionChanges } from '#core/definitions/version-changes.ts';
import { contextOf } from '../panes/context.ts';
import { runPane } from '../panes/run.ts';
import { type Draft, versionOf } from '../store/dashboards.ts';
import { database } from '../store/database.ts';
import { savedScopes } from '../store/tables/dashboards.ts';

/** Something to look at before a draft is published. */
export interface DraftFinding {
  readonly tone: 'broken' | 'slipping';
  readonly words: string;
}

/** What publishing a draft would mean for its readers. */
export interface DraftReview {
  /** What is otherwise since the version that readers have; null where they have none. */
  readonly changes: readonly string[] | null;
  readonly findings: readonly DraftFinding[];
}

/** A pane that takes longer than this is said to be slow. */
const slowMs = 3_000;

const named = ({ title }: Pane): string => (title === '' ? 'An untitled pane' : `“${title}”`);

function ofResult(pane: Pane, result: PaneResult): DraftFinding[] {
  if (result.state === 'failed')
    return [{ tone: 'broken', words: `${named(pane)} fails: ${result.problem.why}.` }];
  if (result.state === 'waiting') return [];
  const isEmpty = 'loosen' in result.body && result.body.loosen !== undefined;
  return [
    ...(isEmpty ? [{ tone: 'slipping' as const, words: `${named(pane)} shows nothing just now.` }] : []),
    ...(result.took > slowMs
      ? [
          {
            tone: 'slipping' as const,
            words: `${named(pane)} took ${(result.took / 1000).toFixed(1)} s. Keep its records, or ask for fewer.`,
          },
        ]
      : []),
  ];
}

/** Whether a clause narrows some pane, or gives one of its inputs. */
function reaches(clause: Clause, { dashboard, dataSets }: Draft): boolean {
  const of = dataSets.get(clause.dataSet);
  return dashboard.panes.some((pane) =>
    usesOf(pane).some((use) => {
      const dataSet = dataSets.get(use.dataSet);
      if (!dataSet) return false;
      const narrows = use.follows === 'scope' && clauseField(clause, of, dataSet) !== null;
      return narrows || dataSet.inputs.some((input) => givesInput(clause, of, input));
    }),
  );
}

/** Saved scopes that name a clause which the draft no longer has. */
async function lostScopes({ id, dashboard }: Draft, before: readonly Clause[]): Promise<DraftFinding[]> {
  const gone = before.filter(({ name }) => !dashboard.scope.some((clause) => clause.name === name));
  if (gone.length === 0) return [];
  const rows = await database()
    .select({ name: savedScopes.name, search: savedScopes.search })
    .from(savedScopes)
    .where(eq(savedScopes.dashboardId, id));
  return gone.flatMap(({ name, many }) => {
    const using = rows.filter(({ search }) => new URLSearchParams(search).has(name));
    return using.length === 0
      ? []
      : [
          {
            tone: 'slipping' as const,
            words: `Saved scopes lose their “${many}”: ${using.map((scope) => `“${scope.name}”`).join(', ')}.`,
          },
        ];
  });
}

/** What a draft would change for readers, and what is to be looked at before: every pane of it is asked once, with its first scope. */
export async function reviewDraft(draft: Draft, asker: Asker, signal: AbortSignal): Promise<DraftReview> {
  const now = new Date();
  const { context } = contextOf(draft, new URLSearchParams(), now, asker);
  const before = draft.published === null ? null : await versionOf(draft.id, draft.published);
  const results = await Promise.all(
    context.dashboard.panes.map(async (pane) => ofResult(pane, await runPane({ pane, context, signal }))),
  );
  const idle = draft.dashboard.scope.filter((clause) => !reaches(clause, draft));
  return {
    changes: before && versionChanges(before, draft, context.clock),
    findings: [
      ...checkFlow(draft.dashboard, draft.dataSets).map(
        ({ why }): DraftFinding => ({ tone: 'broken', words: why }),
      ),
      ...results.flat(),
      ...idle.map(
        ({ many }): DraftFinding => ({
          tone: 'slipping',
          words: `The reader filter “${many}” narrows nothing on this dashboard.`,
        }),
      ),
      ...(before ? await lostScopes(draft, before.dashboard.scope) : []),
    ],
  };
}
