import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { settings } from '../settings.ts';
import * as here from './here.ts';
import type { Answer, Asking } from './place.ts';
import * as there from './there.ts';

/*
 * Asking for records. The web processes leave it to one that they share, so that what is worked out, held, counted and bounded is
 * so for all of them; a process that shares none asks by itself. A version that only one process knows of can only be asked there.
 */

const asker = ({ candidate }: Asking): typeof here | typeof there =>
  settings().SLATE_RECORDS === '' || candidate ? here : there;

/** Runs a plan where its records are: on the source itself, on the kept ones, or on what is fetched. Throws a `ProblemError`. */
export const runPlan = (plan: Plan, asking: Asking): Promise<Answer> => asker(asking).runPlan(plan, asking);

/** How many records a plan has over all its pages, as exact text. */
export const countRecords = (plan: RecordsPlan, asking: Asking): Promise<string> =>
  asker(asking).countRecords(plan, asking);

/** Hands over every record of a plan, some at a time, and nothing more than that in memory. */
export const streamRecords = (
  plan: RecordsPlan,
  asking: Asking,
  take: (records: Cell[][]) => Promise<void>,
): Promise<void> => asker(asking).streamRecords(plan, asking, take);
