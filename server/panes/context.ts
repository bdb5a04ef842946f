import type { Asker } from '#core/ask/condition/resolve.ts';
import type { Edition } from '#core/dashboard/edition.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { vocabularyOf } from '#core/dashboard/flow/vocabulary.ts';
import { inStep } from '#core/dashboard/pane/in-step.ts';
import { readScope } from '#core/dashboard/scope/address.ts';
import { withWholeLists } from '#core/dashboard/whole-lists.ts';
import { type DashboardWithData, type Draft, findDraft, findPublished } from '../store/dashboards.ts';

/** A dashboard as it is asked for by an address: what it shows, and what of the address could not be read. */
export interface OpenDashboard {
  readonly shown: DashboardWithData;
  readonly edition: Edition;
  readonly draft: Draft | null;
  readonly context: Context;
  readonly problems: readonly string[];
}

/** What an address says so that lists show all of their records at once, as on paper. */
export const wholeLists = '_all';

/** Reads a dashboard with the scope of an address. All but what readers have is for those who may build; the caller has checked that. */
export async function openDashboard(
  where: { id: string } | { deskId: string; slug: string },
  edition: Edition,
  params: URLSearchParams,
  now: Date,
  person: Asker,
): Promise<OpenDashboard | null> {
  const draft = edition === 'draft' && 'id' in where ? await findDraft(where.id) : null;
  const found =
    edition === 'draft' ? draft : await findPublished(where, edition === 'published' ? undefined : edition);
  if (!found) return null;
  const { dashboard } = found;
  const shown = {
    ...found,
    dashboard: inStep(params.has(wholeLists) ? withWholeLists(dashboard) : dashboard),
  };
  return { shown, edition, draft, ...contextOf(shown, params, now, person) };
}

export function contextOf(
  { dashboard: given, dataSets, desk }: Pick<DashboardWithData, 'dashboard' | 'dataSets' | 'desk'>,
  params: URLSearchParams,
  now: Date,
  person: Asker,
): Pick<OpenDashboard, 'context' | 'problems'> {
  const dashboard = inStep(given);
  const { scope, problems } = readScope(params, vocabularyOf({ dashboard, dataSets }));
  const clock = { now, zone: desk.zone };
  return { context: { dashboard, dataSets, scope, clock, person }, problems };
}
