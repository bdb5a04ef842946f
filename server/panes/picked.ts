import { relationOf } from '#core/dashboard/flow/applies.ts';
import { type Context, dataSetNamed, type PickedRecords } from '#core/dashboard/flow/context.ts';
import { linksOf } from '#core/dashboard/flow/reach.ts';
import { focusText } from '#core/dashboard/scope/address.ts';
import type { Focus } from '#core/dashboard/scope/state.ts';
import { allOf } from '#core/plan/plan.ts';
import { runPlan } from '../records/run.ts';
import { visibleFilter } from './visible.ts';

/** What one picked record is called and refers to; nothing where it is none that a pane can show, or cannot be read just now. */
async function lookAt(focus: Focus, context: Context, signal?: AbortSignal): Promise<PickedRecords> {
  const nothing: PickedRecords = { names: {}, links: {} };
  const named = dataSetNamed(focus.dataSet, context);
  if (!named?.dataSet.key || focus.field !== named.dataSet.key || focus.value === null || focus.unit)
    return nothing;
  const { id, dataSet } = named;
  const links = linksOf(dataSet);
  const fields = [...new Set([dataSet.title ?? focus.field, ...links.map(({ field }) => field)])];
  const { relation, missing } = relationOf(dataSet, context);
  if (missing !== null || (fields.length === 1 && dataSet.title === undefined)) return nothing;
  try {
    const { records } = await runPlan(
      {
        kind: 'records',
        from: relation,
        zone: context.clock.zone,
        where: allOf([
          visibleFilter(id, dataSet, context),
          { field: focus.field, test: { op: 'same', value: focus.value } },
        ]),
        fields,
        order: [],
        offset: 0,
        limit: 1,
      },
      { doing: `looking up ${dataSet.noun.one} ${focus.value}`, signal },
    );
    const [record] = records;
    if (!record) return nothing;
    const value = (name: string): string | null => {
      const cell = record[fields.indexOf(name)];
      return cell === null || cell === undefined ? null : String(cell);
    };
    const name = dataSet.title === undefined ? null : value(dataSet.title);
    return {
      names: name === null ? {} : { [focusText(focus)]: name },
      links: Object.fromEntries(
        links.flatMap(({ field, meaning }) => {
          const key = value(field);
          return key === null ? [] : [[meaning, key]];
        }),
      ),
    };
  } catch {
    // The panes that depend on it say what is wrong with the source.
    return nothing;
  }
}

/** The context with what is known of the records that are picked: their names, and what they lead to. */
export async function withPicked(context: Context, signal?: AbortSignal): Promise<Context> {
  if (context.scope.focus.length === 0) return context;
  const each = await Promise.all(context.scope.focus.map((focus) => lookAt(focus, context, signal)));
  return {
    ...context,
    picked: {
      names: Object.assign({}, ...each.map(({ names }) => names)),
      links: Object.assign({}, ...each.map(({ links }) => links)),
    },
  };
}
