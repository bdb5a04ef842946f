import type { PaneKind } from './kind.ts';
import { type CardBody, card } from './kinds/card/kind.ts';
import { type ChartBody, chart } from './kinds/chart/kind.ts';
import { type CrosstabBody, crosstab } from './kinds/crosstab/kind.ts';
import { type DetailBody, detail } from './kinds/detail/kind.ts';
import { type FormBody, form } from './kinds/form/kind.ts';
import { type NextOneBody, nextOne } from './kinds/next-one/kind.ts';
import { type NoteBody, note } from './kinds/note/kind.ts';
import { type RecordCardsBody, recordCards } from './kinds/record-cards/kind.ts';
import { type TableBody, table } from './kinds/table/kind.ts';
import { type TraceBody, trace } from './kinds/trace/kind.ts';
import type { Pane } from './schema.ts';

/** What a pane of any kind shows; plain data that crosses to the page. */
export type PaneBody =
  | CardBody
  | ChartBody
  | CrosstabBody
  | TableBody
  | DetailBody
  | NoteBody
  | FormBody
  | NextOneBody
  | RecordCardsBody
  | TraceBody;

type Kinds = {
  readonly [K in Pane['kind']]: PaneKind<Extract<Pane, { kind: K }>, Extract<PaneBody, { kind: K }>>;
};

/** Every kind of pane. */
export const kinds: Kinds = {
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

/** What a pane's kind answers. */
export const kindOf = <P extends Pane>({ kind }: P): PaneKind<P, PaneBody> =>
  kinds[kind] as unknown as PaneKind<P, PaneBody>;
