import type { Cell } from '#core/value/field/value.ts';
import { orderOf } from '../../list-view.ts';
import type { PaneView } from '../../view.ts';
import type { CrosstabPane } from './schema.ts';
import type { RowOrder } from './shape.ts';

/* What the rows of a crosstab are put in order by, as its view says it. */

/** What an order can go by: the heads, or a measure by its place. */
export const byHeads = 'label';
export const byMeasure = (at: number): string => `number:${at}`;

/** An order of the rows as parts of the view, and back. */
export const rowOrderParts = ({ measure, descending, along }: RowOrder): PaneView => ({
  order: [`${descending ? '-' : '+'}${measure === null ? byHeads : byMeasure(measure)}`],
  along: along.length === 0 ? [] : [JSON.stringify(along)],
});

export function rowOrderOf(pane: CrosstabPane, { order = [], along = [] }: PaneView): RowOrder {
  const [chosen] = orderOf(order);
  if (!chosen)
    return pane.order === 'value'
      ? { measure: 0, descending: true, along: [] }
      : { measure: null, descending: false, along: [] };
  const measure = pane.measures.findIndex((_, at) => byMeasure(at) === chosen.by);
  return {
    measure: measure < 0 ? null : measure,
    descending: chosen.descending ?? false,
    along: pathOf(along[0]),
  };
}

/** The values of a column out of an address, where anything may stand. */
function pathOf(text: string | undefined): Cell[] {
  try {
    const path: unknown = JSON.parse(text ?? '[]');
    return Array.isArray(path)
      ? path.filter(
          (each): each is Cell => each === null || ['string', 'number', 'boolean'].includes(typeof each),
        )
      : [];
  } catch {
    return [];
  }
}

/** Whether rows are in order by a measure of a column, or by their heads. */
export const isOrderedBy = (order: RowOrder, measure: number | null, along: readonly Cell[]): boolean =>
  order.measure === measure && JSON.stringify(order.along) === JSON.stringify(along);
