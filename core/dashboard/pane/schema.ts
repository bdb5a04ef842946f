import { z } from 'zod';
import { Card } from './kinds/card/schema.ts';
import { Chart } from './kinds/chart/schema.ts';
import { Crosstab } from './kinds/crosstab/schema.ts';
import { Detail } from './kinds/detail/schema.ts';
import { Table } from './kinds/table/schema.ts';

/** A pane of any kind: a line for each. */
export const Pane = z.discriminatedUnion('kind', [Card, Chart, Crosstab, Table, Detail]);
export type Pane = z.infer<typeof Pane>;
