import type { Request } from 'express';
import type { Asker } from '#core/ask/condition/resolve.ts';
import { inStep } from '#core/dashboard/pane/in-step.ts';
import { askerOf } from '../people/asker.ts';
import { may } from '../permission.ts';
import { type AccessKey, accessKeyOf } from '../store/access-keys.ts';
import { type DashboardWithData, deskOfDashboard, findPublished } from '../store/dashboards.ts';
import { allDataSets, type StoredDataSet } from '../store/data-sets.ts';
import type { User } from '../store/people.ts';

/* What a program reaches with its key: of what the key names, what the person whose it is may see now, as they would see it. */

export interface Program {
  readonly key: AccessKey;
  readonly user: User;
  readonly asker: Asker;
}

/** The key of a request: `Bearer`, or the password of `Basic`, which spreadsheets have. */
function keyIn(request: Request): string | null {
  const [, scheme = '', sent = ''] =
    /^(Bearer|Basic)\s+(\S{1,400})$/i.exec(request.get('authorization') ?? '') ?? [];
  if (scheme.toLowerCase() === 'bearer') return sent;
  if (scheme === '') return null;
  const pair = Buffer.from(sent, 'base64').toString('utf8');
  return pair.slice(pair.indexOf(':') + 1);
}

export async function programOf(request: Request): Promise<Program | null> {
  const sent = keyIn(request);
  const found = sent === null ? null : await accessKeyOf(sent);
  return found && { ...found, asker: askerOf(found.user) };
}

/** The data sets of a key, by name: none once its person no longer builds, since they hold what no dashboard shows. */
export async function dataSetsOf({ key, user }: Program): Promise<StoredDataSet[]> {
  if (key.dataSets.length === 0 || !may(user, 'build', 'anywhere')) return [];
  const all = await allDataSets();
  return all.filter(({ id }) => key.dataSets.includes(id));
}

/** A dashboard of a key, as published; null where it is not of the key, not published, or not for its person. */
export async function dashboardOf({ key, user }: Program, id: string): Promise<DashboardWithData | null> {
  if (!key.dashboards.includes(id)) return null;
  const desk = await deskOfDashboard(id);
  if (desk === null || !may(user, 'read', { desk })) return null;
  const found = await findPublished({ id });
  return found && { ...found, dashboard: inStep(found.dashboard) };
}
