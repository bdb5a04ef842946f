import { z } from 'zod';

export const encodings = ['utf-8', 'utf-16', 'latin-1'] as const;

/** How a file is read. What is absent is found out from the file itself. */
export const FileReading = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('delimited'),
    delimiter: z.string().min(1).max(4).optional(),
    quote: z.string().max(1).optional(),
    header: z.boolean().optional(),
    /** Lines above the header or the first record, which are titles. */
    skip: z.int().min(0).max(1000).optional(),
    encoding: z.enum(encodings).optional(),
  }),
  /** `at`: the names that lead to the list of records in a document; none: the document is the records. */
  z.object({ kind: z.literal('json'), at: z.array(z.string().max(500)).max(10).optional() }),
  z.object({ kind: z.literal('parquet') }),
  /** A sheet of a spreadsheet, and the number of the row that names its fields. */
  z.object({
    kind: z.literal('sheet'),
    sheet: z.string().min(1).max(200).optional(),
    header: z.int().min(1).max(1000).optional(),
    /** What becomes of a last row that says it is a total; absent: there is none, or nobody has looked. */
    total: z.enum(['left out', 'kept']).optional(),
  }),
]);
export type FileReading = z.infer<typeof FileReading>;

/** A record that could not be read, where it stands and why. */
export interface RejectedRecord {
  readonly line: number;
  readonly text: string;
  readonly why: string;
}
