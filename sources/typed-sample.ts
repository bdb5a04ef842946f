import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { guessJsonType } from '#core/dataset/kept/guess.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { decimalShape } from '#engine/columnar/kept-field.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import type { MixedField } from './kind.ts';

export interface TypedSample {
  readonly fields: readonly { readonly name: string; readonly type: FieldType }[];
  readonly mixed: readonly MixedField[];
  readonly records: readonly (readonly Cell[])[];
  readonly total: number;
}

/**
 * Types of texts, from all of the records there are unless they are said, and the first of the records as those types. `put` puts the records into
 * the writer, whose columns are `names` unless it stages others.
 */
export async function typedSample(
  names: readonly string[],
  put: (writer: SegmentWriter) => Promise<void>,
  limit: number,
  types?: readonly { readonly name: string; readonly type: FieldType }[],
  /** What is written as a text is no number, however it looks. */
  isWrittenAsText: (name: string) => boolean = () => false,
): Promise<TypedSample> {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-try-'));
  const writer = await SegmentWriter.open(folder, names);
  try {
    await put(writer);
    if (types) {
      await writer.type(await writer.scaled(types));
      return {
        fields: types,
        mixed: [],
        records: await writer.typedFirst(limit),
        total: await writer.count(),
      };
    }
    const { total, looks } = await writer.looks();
    const mixed: MixedField[] = [];
    const fields = [];
    for (const [name, each] of looks) {
      const { type, nearly } = guessJsonType(each, isWrittenAsText(name));
      if (nearly)
        mixed.push({ name, ...nearly, examples: (await writer.misfits(name, nearly.type)).examples });
      fields.push({
        name,
        type,
        ...(type === 'decimal' ? decimalShape(each.wholeDigits, each.decimalDigits) : {}),
      });
    }
    await writer.type(fields);
    const records = await writer.typedFirst(limit);
    return { fields: fields.map(({ name, type }) => ({ name, type })), mixed, records, total };
  } finally {
    writer.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
