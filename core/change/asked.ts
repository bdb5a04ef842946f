import { z } from 'zod';
import { mostAtOnce, mostLines } from '#core/dataset/change/schema.ts';
import { FieldName } from '#core/value/field/field.ts';

/* What a page asks about changes, as it crosses. */

const Key = z.string().min(1).max(2000);
const Text = z.string().max(100_000).nullable();
const Values = z.record(FieldName, Text);

/** What is to be done, to the records of a pane: an action of its, or one field in its place. */
const Doing = z.union([z.object({ action: FieldName }), z.object({ field: FieldName })]);

/** As many characters of a block as may be pasted at once. */
export const longestBlock = 4_000_000;

const BlockText = z.string().max(longestBlock);

export const PastedBlock = z.union([
  /** Cells as a spreadsheet copies them, onto those of records and fields that stand so in a table. */
  z.object({
    text: BlockText,
    onto: z.object({ keys: z.array(Key).max(1000), fields: z.array(FieldName).max(500) }),
  }),
  /** CSV, or cells as a spreadsheet copies them, with their heads. */
  z.object({ text: BlockText, areNew: z.boolean() }),
]);
export type PastedBlock = z.infer<typeof PastedBlock>;

export const AskedChange = z.discriminatedUnion('ask', [
  /** What would be changed. */
  z.object({
    ask: z.literal('look'),
    pane: z.string().max(60),
    do: Doing,
    /** `all`: every record that the pane shows under the scope. */
    keys: z.union([z.array(Key).max(mostAtOnce), z.literal('all')]),
  }),
  z.object({
    ask: z.literal('send'),
    /** Made by the page for this one change: the same again is the same change. */
    batch: z.uuid(),
    pane: z.string().max(60),
    do: Doing,
    /** The records with the values that the person saw of what is changed. */
    records: z.array(z.object({ key: Key, saw: Values })).max(mostAtOnce),
    values: Values,
    /** What is added together with a record. */
    lines: z.array(Values).max(mostLines).optional(),
  }),
  z.object({ ask: z.literal('undo'), batch: z.uuid(), of: z.uuid() }),
  /** What a block of a spreadsheet would change. */
  z.object({ ask: z.literal('compare'), pane: z.string().max(60), block: PastedBlock }),
  z.object({
    ask: z.literal('sendBlock'),
    batch: z.uuid(),
    pane: z.string().max(60),
    /** The records that are changed, with the values that the person saw. */
    changes: z.array(z.object({ key: Key, saw: Values, values: Values })).max(mostAtOnce),
    /** What the new records are asked for. */
    additions: z.array(Values).max(mostAtOnce),
  }),
]);
export type AskedChange = z.infer<typeof AskedChange>;
