import type { FieldType } from '#core/value/field/types.ts';

/* What looking around a database finds. */

export interface FoundColumn {
  readonly name: string;
  /** As the source names it: "numeric(10,2)". */
  readonly sourceType: string;
  readonly type: FieldType;
  readonly read?: 'text' | 'utc' | 'whole' | undefined;
  readonly mayBeBlank: boolean;
  readonly comment: string | null;
  /** The source works it out by itself. */
  readonly made?: boolean | undefined;
  /** The source has a value for it where none is given. */
  readonly usual?: boolean | undefined;
  /** This many characters at most. */
  readonly longest?: number | undefined;
  /** The only texts that it may be. */
  readonly among?: readonly string[] | undefined;
}

export interface ForeignKey {
  readonly columns: readonly string[];
  readonly schema: string;
  readonly table: string;
  readonly keys: readonly string[];
  /** What the source calls the way there, where it has a name. */
  readonly via?: string | undefined;
}

export interface FoundTable {
  readonly schema: string;
  readonly name: string;
  readonly kind: 'table' | 'view';
  /** Approximate; null where the source has not counted yet. */
  readonly about: number | null;
  readonly comment: string | null;
  readonly columns: readonly FoundColumn[];
  /** Columns of the primary key, in order. */
  readonly key: readonly string[];
  readonly foreignKeys: readonly ForeignKey[];
}
