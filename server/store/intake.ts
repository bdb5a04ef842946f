import { createHash } from 'node:crypto';
import { and, asc, desc, eq, gt, lt, sql } from 'drizzle-orm';
import type { Received } from '#sources/intake/read.ts';
import { database, inTransaction } from './database.ts';
import { intake, sources } from './tables/sources.ts';

const batchesAtOnce = 50;

/** What was sent to a source, in the order in which it became visible. */
export function receivedBy(sourceId: string): Received {
  return {
    async *batchesAfter(id) {
      let last = BigInt(id);
      for (;;) {
        const rows = await database()
          .select({ id: intake.id, lines: intake.lines })
          .from(intake)
          .where(and(eq(intake.sourceId, sourceId), gt(intake.id, last)))
          .orderBy(asc(intake.id))
          .limit(batchesAtOnce);
        for (const row of rows) yield { id: String(row.id), lines: row.lines };
        const end = rows.at(-1);
        if (!end) return;
        last = end.id;
      }
    },
    async latest(most) {
      const rows = await database()
        .select({ lines: intake.lines })
        .from(intake)
        .where(eq(intake.sourceId, sourceId))
        .orderBy(desc(intake.id))
        .limit(most);
      return rows.map(({ lines }) => lines);
    },
  };
}

/**
 * Stores a batch of records. Batches of one source are stored one after the other, so that none becomes visible after a
 * later one was read. False for a batch that is there already: it was sent again.
 */
export async function storeBatch(sourceId: string, records: readonly string[]): Promise<boolean> {
  const lines = records.join('\n');
  const digest = createHash('sha256').update(lines).digest('hex');
  return inTransaction(async (tx) => {
    await tx.execute(sql`SELECT pg_advisory_xact_lock(hashtextextended(${sourceId}, 4601))`);
    const rows = await tx
      .insert(intake)
      .values({ sourceId, digest, lines, records: records.length })
      .onConflictDoNothing()
      .returning({ id: intake.id });
    return rows.length > 0;
  });
}

/** The source that a key lets in to, by the hash of the key. */
export async function sourceOfKey(keyHash: string): Promise<string | null> {
  const [row] = await database()
    .select({ id: sources.id })
    .from(sources)
    .where(sql`${sources.connection}->>'kind' = 'intake' AND ${sources.connection}->>'keyHash' = ${keyHash}`)
    .limit(1);
  return row?.id ?? null;
}

/** Batches are kept a week, for data sets that are made later or fetch everything again. */
export async function forgetBatches(): Promise<void> {
  await database().delete(intake).where(lt(intake.at, sql`now() - interval '7 days'`));
}

/** How much was received, and when last. */
export async function intakeState(
  sourceId: string,
): Promise<{ batches: number; records: number; lastAt: string | null }> {
  const [row] = await database()
    .select({
      batches: sql<number>`count(*)::int`,
      records: sql<number>`coalesce(sum(${intake.records}), 0)::int`,
      lastAt: sql<Date | null>`max(${intake.at})`,
    })
    .from(intake)
    .where(eq(intake.sourceId, sourceId));
  return {
    batches: row?.batches ?? 0,
    records: row?.records ?? 0,
    lastAt: row?.lastAt ? new Date(row.lastAt).toISOString() : null,
  };
}
