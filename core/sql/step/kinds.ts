import type { Step, StepKindName, StepOf } from '#core/dataset/step/schema.ts';
import { identifier, type Sql } from '../fragment.ts';
import type { Level } from '../level.ts';
import { deriveSql, fillWithSql, renameSql, spreadSql, typeSql, whereSql } from './fields.ts';
import { lookUpSql } from './look-up.ts';
import { distinctSql, fillBeforeSql, rankSql, runningSql } from './order.ts';
import { longSql, periodsSql, stackSql, summariseSql, unfoldSql, wideSql } from './reshape.ts';
import type { AroundTools, StepParts, Tools } from './tools.ts';

/** How a kind of step is written in SQL. */
export interface StepSql<S extends Step> {
  /** Each field that it reads is read in one place only. */
  readonly readsOnce: (step: S) => boolean;
  /** Into the SELECT of the records before it, or as another around that one. */
  readonly write: (
    step: S,
    tools: Tools,
    level: Level,
    records: () => AroundTools,
  ) => { readonly added: StepParts } | { readonly around: Sql };
}

/** What looks at one record at a time. */
const adding = <S extends Step>(add: (step: S, tools: Tools, level: Level) => StepParts): StepSql<S> => ({
  readsOnce: () => false,
  write: (step, tools, level) => ({ added: add(step, tools, level) }),
});

/** What needs all records at once. */
const around = <S extends Step>(select: (step: S, tools: AroundTools) => Sql): StepSql<S> => ({
  readsOnce: () => false,
  write: (step, _, __, records) => ({ around: select(step, records()) }),
});

const kinds: { readonly [K in StepKindName]: StepSql<StepOf<K>> } = {
  fields: adding(() => ({})),
  rename: { ...adding((step, _, level) => renameSql(step, level)), readsOnce: () => true },
  type: adding(typeSql),
  where: adding((_, tools) => whereSql(tools)),
  derive: adding(deriveSql),
  lookUp: adding((step, tools, level) => lookUpSql(step, identifier(`l${level.joins + 1}`), tools)),
  unfold: around(unfoldSql),
  spread: adding(spreadSql),
  stack: around(stackSql),
  distinct: around(distinctSql),
  fill: {
    readsOnce: (step) => step.with.kind === 'value',
    write: ({ field, with: filling }, tools, _, records) =>
      filling.kind === 'value'
        ? { added: fillWithSql(field, filling.value, tools) }
        : { around: fillBeforeSql(field, filling, records()) },
  },
  summarise: around(summariseSql),
  rank: around(rankSql),
  running: around(runningSql),
  periods: around(periodsSql),
  wide: around(wideSql),
  long: around(longSql),
};

export const sqlOf = (step: Step): StepSql<Step> => kinds[step.kind] as unknown as StepSql<Step>;
