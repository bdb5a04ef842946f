import type { Pane } from '#core/dashboard/pane/schema.ts';
import { card } from './card/slots.tsx';
import { chart } from './chart/slots.tsx';
import { crosstab } from './crosstab/slots.tsx';
import { detail } from './detail/slots.tsx';
import { form } from './form/slots.tsx';
import { nextOne } from './next-one/slots.tsx';
import { note } from './note/slots.tsx';
import { recordCards } from './record-cards/slots.tsx';
import type { PaneBrief } from './slot.ts';
import { table } from './table/slots.tsx';
import { trace } from './trace/slots.tsx';

/** The brief of every kind of pane. */
const briefs: { readonly [K in Pane['kind']]: PaneBrief<Extract<Pane, { kind: K }>> } = {
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

export const briefOf = ({ kind }: Pane): PaneBrief<Pane> => briefs[kind] as unknown as PaneBrief<Pane>;
