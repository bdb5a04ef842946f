import type { z } from 'zod';
import type { DataSet } from '#core/dataset/schema.ts';
import { keepProblem } from '#core/kept/check.ts';
import { checkSql } from '#sources/postgres/check-sql.ts';
import type { Saved } from './store/dashboards.ts';

/** What a save came to, told to the page that asked for it. */
export type SaveAnswer =
  | { readonly state: 'saved'; readonly revision: number }
  | { readonly state: 'refused'; readonly why: string[] }
  /** Somebody else saved in between: who, when, and what is different now. */
  | {
      readonly state: 'crossed';
      readonly by: string;
      readonly at: string;
      readonly revision: number;
      readonly changes: string[];
    };

export const saveAnswer = (saved: Saved, changes: string[]): SaveAnswer =>
  saved.ok
    ? { state: 'saved', revision: saved.revision }
    : { state: 'crossed', by: saved.by, at: saved.at.toISOString(), revision: saved.revision, changes };

/** What is wrong with a definition, one sentence for each place. */
export const refused = (error: z.ZodError): SaveAnswer => ({
  state: 'refused',
  why: error.issues
    .slice(0, 8)
    .map(({ path, message }) => `${path.join(' › ') || 'The definition'}: ${message}`),
});

/** What is wrong with a data set that is about to be saved, or null: SQL must be one SELECT that only reads. */
export async function refusedDataSet(definition: DataSet): Promise<SaveAnswer | null> {
  const kept = keepProblem(definition);
  if (kept) return { state: 'refused', why: [kept] };
  const { request } = definition;
  if (request.kind !== 'sql') return null;
  const checked = await checkSql(request.text);
  return checked.ok ? null : { state: 'refused', why: [checked.problem.why] };
}
