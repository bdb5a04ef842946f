import type { z } from 'zod';
import { DataSet } from '#core/dataset/schema.ts';
import { Dashboard } from './schema.ts';

/** Steps from each version of a definition to the next; the step at index 0 takes version 1 to 2. */
type Steps = readonly ((definition: Record<string, unknown>) => Record<string, unknown>)[];

const dashboardSteps: Steps = [];
const dataSetSteps: Steps = [];

function migrated<T>(raw: unknown, steps: Steps, schema: z.ZodType<T>, what: string): T {
  if (typeof raw !== 'object' || raw === null) throw new TypeError(`${what} is not an object`);
  let definition = raw as Record<string, unknown>;
  const version = Number(definition.version);
  if (!Number.isInteger(version) || version < 1 || version > steps.length + 1)
    throw new RangeError(
      `${what} has version ${String(definition.version)}; this installation reads up to ${steps.length + 1}`,
    );
  for (const step of steps.slice(version - 1)) definition = step(definition);
  return schema.parse(definition);
}

/** Reads a stored or imported definition of any version up to the current one. Throws on anything else. */
export const migrateDashboard = (raw: unknown): Dashboard =>
  migrated(raw, dashboardSteps, Dashboard, 'the dashboard');
export const migrateDataSet = (raw: unknown): DataSet => migrated(raw, dataSetSteps, DataSet, 'the data set');
