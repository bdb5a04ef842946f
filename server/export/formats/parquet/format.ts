import { copyFile } from 'node:fs/promises';
import path from 'node:path';
import { cellText } from '#core/value/field/value.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import type { ExportFormat, Sheet, Stream } from '../../format.ts';

/** Parquet with the types of the fields; every digit is kept. */
async function writeParquet(file: string, { fields }: Sheet, stream: Stream): Promise<void> {
  const writer = await SegmentWriter.open(
    path.dirname(file),
    fields.map(({ name }) => name),
  );
  try {
    await stream((records) => writer.add(records.map((record) => record.map(cellText))));
    await writer.type(await writer.scaled(fields));
    await copyFile((await writer.writeOne(path.dirname(file))).file, file);
  } finally {
    writer.close();
  }
}

export const parquet: ExportFormat = { media: 'application/vnd.apache.parquet', write: writeParquet };
