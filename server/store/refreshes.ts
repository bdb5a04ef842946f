import { and, desc, eq, sql } from 'drizzle-orm';
import type { RejectedRecord } from '#core/dataset/upload.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { database } from './database.ts';
import { refreshes, rejects } from './tables/data-sets.ts';

/* What happened at each refresh of kept records, and the lines that it could not read. */

export interface Refresh {
  readonly id: string;
  readonly state: 'running' | 'done' | 'failed' | 'stopped';
  readonly startedAt: string;
  readonly endedAt: string | null;
  readonly fetched: number;
  readonly kept: number | null;
  readonly rejected: number;
  readonly calls: number;
  readonly problem: Problem | null;
}

export async function beginRefresh(id: string, dataSetId: string): Promise<void> {
  // Whoever holds the data set's lock is the only one at it, so what still says that it runs was cut off.
  const interrupted: Problem = {
    code: 'stopped',
    doing: 'refreshing',
    why: 'it was cut off: the worker ended while it ran',
    mend: 'Nothing was changed. The next refresh begins again.',
  };
  await database()
    .update(refreshes)
    .set({ state: 'failed', endedAt: new Date(), problem: interrupted })
    .where(and(eq(refreshes.dataSetId, dataSetId), eq(refreshes.state, 'running')));
  await database().insert(refreshes).values({ id, dataSetId, state: 'running' });
}

/** Tells how far a refresh is. True when somebody asked it to stop. */
export async function tellProgress(id: string, fetched: number): Promise<boolean> {
  const [row] = await database()
    .update(refreshes)
    .set({ fetched })
    .where(eq(refreshes.id, id))
    .returning({ stop: refreshes.stopAsked });
  return row?.stop ?? true;
}

export async function endRefresh(
  id: string,
  ended: {
    state: 'done' | 'failed' | 'stopped';
    fetched: number;
    kept?: number;
    rejected?: number;
    calls?: number;
    problem?: Problem;
  },
): Promise<void> {
  await database()
    .update(refreshes)
    .set({ ...ended, endedAt: new Date() })
    .where(eq(refreshes.id, id));
}

export async function askToStop(dataSetId: string): Promise<void> {
  await database()
    .update(refreshes)
    .set({ stopAsked: true })
    .where(and(eq(refreshes.dataSetId, dataSetId), eq(refreshes.state, 'running')));
}

export async function refreshHistory(dataSetId: string, most = 12): Promise<Refresh[]> {
  const rows = await database()
    .select()
    .from(refreshes)
    .where(eq(refreshes.dataSetId, dataSetId))
    .orderBy(desc(refreshes.startedAt))
    .limit(most);
  return rows.map((row) => ({
    id: row.id,
    state: row.state,
    startedAt: row.startedAt.toISOString(),
    endedAt: row.endedAt?.toISOString() ?? null,
    fetched: row.fetched,
    kept: row.kept,
    rejected: row.rejected,
    calls: row.calls,
    problem: row.problem as Problem | null,
  }));
}

const mostRejects = 10_000;

/** Keeps lines that could not be read, to look at; of a data set the latest of them. */
export async function storeRejects(dataSetId: string, rejected: readonly RejectedRecord[]): Promise<void> {
  if (rejected.length === 0) return;
  await database()
    .insert(rejects)
    .values(
      rejected.map(({ line, text, why }) => ({
        dataSetId,
        line,
        text: text.replaceAll('\0', ' '),
        why,
      })),
    );
  await database().execute(
    sql`DELETE FROM rejects WHERE data_set_id = ${dataSetId} AND id <= (SELECT id FROM rejects WHERE data_set_id = ${dataSetId} ORDER BY id DESC OFFSET ${mostRejects} LIMIT 1)`,
  );
}

/** The latest lines that could not be read. */
export async function latestRejects(
  dataSetId: string,
  most = 50,
): Promise<{ line: number; text: string; why: string; at: string }[]> {
  const rows = await database()
    .select()
    .from(rejects)
    .where(eq(rejects.dataSetId, dataSetId))
    .orderBy(desc(rejects.id))
    .limit(most);
  return rows.map(({ line, text, why, madeAt }) => ({ line, text, why, at: madeAt.toISOString() }));
}
