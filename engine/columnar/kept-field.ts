import type { FieldType } from '#core/value/field/types.ts';

export interface WriterField {
  readonly name: string;
  readonly type: FieldType;
}

/** A field as segments hold it; decimals have one scale and as many digits throughout: 18 where that is enough, else 38. */
export interface KeptField extends WriterField {
  readonly scale?: number;
  readonly digits?: number;
}

/** The digits and scale of a decimal with this many before and after the point. DuckDB is far quicker with 18 than with 38. */
export function decimalShape(
  whole: number,
  part: number,
  before?: KeptField,
): { scale: number; digits: number } {
  const scale = Math.min(38, Math.max(before?.scale ?? 0, part));
  const isShort = whole + scale <= 18 && (before === undefined || before.digits === 18);
  return { scale, digits: isShort ? 18 : 38 };
}
