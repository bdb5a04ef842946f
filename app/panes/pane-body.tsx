import type { PaneBody } from '#core/pane/result.ts';
import type { Pane } from '#core/pane/schema.ts';
import { CardView } from './card/card.tsx';
import { ChartView } from './chart/chart.tsx';
import { DetailView } from './detail/detail.tsx';
import { TableView } from './table/table.tsx';

/** One line for each kind of pane. */
export function PaneBodyView({ pane, body, asTable }: { pane: Pane; body: PaneBody; asTable: boolean }) {
  switch (body.kind) {
    case 'card':
      return <CardView pane={pane} body={body} />;
    case 'chart':
      return pane.kind === 'chart' ? <ChartView pane={pane} body={body} asTable={asTable} /> : null;
    case 'table':
      return pane.kind === 'table' ? <TableView pane={pane} body={body} /> : null;
    case 'detail':
      return <DetailView body={body} />;
  }
}
