import { z } from 'zod';
import { Card } from './kinds/card/schema.ts';
import { Chart } from './kinds/chart/schema.ts';
import { Crosstab } from './kinds/crosstab/schema.ts';
import { Detail } from './kinds/detail/schema.ts';
import { Form } from './kinds/form/schema.ts';
import { NextOne } from './kinds/next-one/schema.ts';
import { Note } from './kinds/note/schema.ts';
import { RecordCards } from './kinds/record-cards/schema.ts';
import { Table } from './kinds/table/schema.ts';
import { Trace } from './kinds/trace/schema.ts';

/** A pane of any kind: a line for each. */
export const Pane = z.discriminatedUnion('kind', [
  Card,
  Chart,
  Crosstab,
  Table,
  Detail,
  Note,
  Form,
  NextOne,
  RecordCards,
  Trace,
]);
export type Pane = z.infer<typeof Pane>;
