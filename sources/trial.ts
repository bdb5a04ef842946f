import type { Candidate } from '#core/dataset/http/candidates.ts';
import type { Mark } from '#core/dataset/log/formats.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';

/** A field that changes its type among the records: it stays text, and these are the texts that made it so. */
export interface MixedField {
  readonly name: string;
  readonly type: FieldType;
  readonly others: number;
  readonly examples: readonly string[];
}

/** A line of a log with the fields that were found in it; without any where it does not fit. */
export interface TriedLine {
  readonly text: string;
  readonly marks: readonly Mark[] | null;
}

/** The first records of a request, with what they are made of. */
export interface Trial {
  readonly request: Request;
  readonly fields: readonly Field[];
  readonly records: readonly (readonly Cell[])[];
  /** Milliseconds. */
  readonly took: number;
  readonly more: boolean;
  readonly mixed?: readonly MixedField[];
  /** Places in a service's answer where records may be. */
  readonly candidates?: readonly Candidate[];
  /** How a log's lines were read. */
  readonly lines?: {
    readonly sample: readonly TriedLine[];
    readonly matched: number;
    readonly missed: number;
    readonly files: readonly string[];
  };
}
