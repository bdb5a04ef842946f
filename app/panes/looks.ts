import type { PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { card } from './card/card.tsx';
import { chart } from './chart/chart.tsx';
import { crosstab } from './crosstab/crosstab.tsx';
import { detail } from './detail/detail.tsx';
import { form } from './form/form.tsx';
import { nextOne } from './next-one/next-one.tsx';
import { note } from './note/note.tsx';
import { recordCards } from './record-cards/record-cards.tsx';
import { table } from './table/table.tsx';
import { trace } from './trace/trace.tsx';
import type { PaneLook } from './view.ts';

/** How every kind of pane looks. */
const looks: {
  readonly [K in Pane['kind']]: PaneLook<Extract<Pane, { kind: K }>, Extract<PaneBody, { kind: K }>>;
} = {
  card,
  chart,
  crosstab,
  table,
  detail,
  note,
  form,
  'next-one': nextOne,
  'record-cards': recordCards,
  trace,
};

export const lookOf = ({ kind }: Pane): PaneLook<Pane, PaneBody> =>
  looks[kind] as unknown as PaneLook<Pane, PaneBody>;
