import { ColumnarDatabase } from '#engine/columnar/database.ts';
import type { WriterField } from '#engine/columnar/kept-field.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';

/** A database with one version, `v1`, of these records, given as texts in the order of the fields. The folder is the test's own. */
export async function columnarRecords(
  folder: string,
  fields: readonly WriterField[],
  rows: readonly (string | null)[][],
): Promise<ColumnarDatabase> {
  const writer = await SegmentWriter.open(
    folder,
    fields.map(({ name }) => name),
  );
  await writer.add(rows);
  const scaled = await writer.scaled(fields);
  await writer.type(scaled);
  const segments = await writer.write(folder);
  writer.close();
  const database = await ColumnarDatabase.open({ folder });
  await database.define(
    'v1',
    segments.map(({ file }) => file),
    scaled,
  );
  return database;
}
