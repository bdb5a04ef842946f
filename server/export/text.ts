import { open } from 'node:fs/promises';
import type { Cell } from '#core/value/field/value.ts';
import type { ExportFormat, Sheet } from './format.ts';

/** Pieces of a text file: what it begins with, records, what it ends with. */
interface TextFormat {
  readonly head: (sheet: Sheet) => string;
  readonly records: (sheet: Sheet, records: readonly (readonly Cell[])[], isFirst: boolean) => string;
  readonly foot: string;
}

/** A record as a JSON object (RFC 8259) of its fields' names. */
export const jsonObject = ({ fields }: Sheet, record: readonly Cell[]): string =>
  JSON.stringify(Object.fromEntries(fields.map(({ name }, at) => [name, record[at] ?? null])));

/** Writes text as the records come, and waits for the disk. */
export const textWriter =
  ({ head, records: written, foot }: TextFormat): ExportFormat['write'] =>
  async (file, sheet, stream) => {
    const out = await open(file, 'w', 0o600);
    try {
      await out.write(head(sheet));
      let isFirst = true;
      await stream(async (records) => {
        await out.write(written(sheet, records, isFirst));
        isFirst = false;
      });
      await out.write(foot);
    } finally {
      await out.close();
    }
  };
