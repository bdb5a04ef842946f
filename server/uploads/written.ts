import { existsSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { isDeepStrictEqual } from 'node:util';
import type { Form } from '#core/dataset/kept/forms.ts';
import type { Spans } from '#core/dataset/kept/spans.ts';
import type { FileReading } from '#core/dataset/upload.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import { uploadedFile } from './files.ts';

/* Segments that were written while a file was looked at, so that accepting it need not read it again. */

interface WrittenFile {
  readonly reading: FileReading;
  readonly fields: readonly KeptField[];
  readonly forms: Record<string, Form>;
  readonly segments: readonly WrittenSegment[];
  readonly spans: Spans;
}

const noteOf = (id: string): string => `${uploadedFile(id)}.written`;

export const rememberWritten = (id: string, written: WrittenFile): Promise<void> =>
  writeFile(noteOf(id), JSON.stringify(written));

/** What was written of a file, read in this way, with these fields of these types; null where that is not there. */
export async function writtenBefore(
  id: string,
  wish: {
    reading: FileReading;
    fields: readonly { name: string; type: FieldType }[];
    forms: Record<string, Form>;
  },
): Promise<WrittenFile | null> {
  const text = await readFile(noteOf(id), 'utf8').catch(() => null);
  if (text === null) return null;
  const written = JSON.parse(text) as WrittenFile;
  const isSame =
    isDeepStrictEqual(written.reading, wish.reading) &&
    isDeepStrictEqual(written.forms, wish.forms) &&
    written.fields.length === wish.fields.length &&
    written.fields.every(
      ({ name, type }, at) => wish.fields[at]?.name === name && wish.fields[at]?.type === type,
    );
  return isSame && written.segments.every(({ file }) => existsSync(file)) ? written : null;
}
