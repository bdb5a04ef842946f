import type { ChangeRule, Way } from '#core/dataset/change/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Tone } from '#core/value/field/types.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { Values } from './change.ts';

/* What a page is told about changes. */

/** A field whose value is asked for. */
export interface AskedField {
  readonly field: Pick<Field, 'name' | 'type' | 'label' | 'unit' | 'states' | 'format' | 'group'>;
  readonly label: string;
  readonly isRequired: boolean;
  /** What it may be, where that is one of a few. */
  readonly choices: readonly { readonly value: string; readonly words: string }[] | null;
  /** What it is in all of the records; null where that differs. */
  readonly value: string | null;
  readonly longest: number | null;
}

/** A record that would be changed, as it is now. */
export interface LookedAt {
  readonly key: string;
  readonly title: string;
  readonly saw: Values;
  /** What it is in fields that are compared with those that are changed. */
  readonly beside: Values;
}

/** A rule between fields, with what is said where it is broken. */
export interface ShownRule {
  readonly rule: ChangeRule;
  readonly words: string;
  /** The types of its fields. */
  readonly fields: readonly Pick<Field, 'name' | 'type'>[];
}

/** What is asked of each record that is added together with one. */
export interface LinesLook {
  readonly noun: { readonly one: string; readonly many: string };
  readonly fields: readonly AskedField[];
  readonly rules: readonly ShownRule[];
}

export interface ChangeLook {
  readonly label: string;
  readonly tone: Tone | null;
  readonly way: Way;
  /** What is about to be done, in a sentence. */
  readonly sentence: string;
  readonly records: readonly LookedAt[];
  /** How many of those that were meant it is not offered for. */
  readonly leftOut: number;
  readonly noun: { readonly one: string; readonly many: string };
  readonly fields: readonly AskedField[];
  /** What has to be so between its fields afterwards. */
  readonly rules: readonly ShownRule[];
  /** Of a record that is added, what comes with it; null where nothing does. */
  readonly lines: LinesLook | null;
  /** They are sent one by one, so that some may be changed and others not. */
  readonly oneByOne: boolean;
}

/** A row that would change a record: its values that are otherwise now, and what they are. */
export interface BlockChange {
  readonly key: string;
  readonly title: string;
  readonly saw: Values;
  readonly values: Values;
}

/** A row that cannot be used, and why. */
export interface UnusableRow {
  readonly place: number;
  readonly identity: string | null;
  readonly why: string;
}

/** What a block of a spreadsheet may hold for a pane, by the labels of the fields. */
export interface BlockTakes {
  /** Any of these says which record a row is of. */
  readonly identities: readonly string[];
  /** What it may change of records that are there. */
  readonly changes: readonly string[];
  /** What it may say of new ones; null where none can be added. */
  readonly additions: readonly string[] | null;
}

/** What a block of a spreadsheet would do. */
export interface BlockLook {
  readonly noun: { readonly one: string; readonly many: string };
  readonly takes: BlockTakes;
  readonly changes: readonly BlockChange[];
  readonly additions: readonly Values[];
  readonly same: number;
  /** The first of the rows that cannot be used, and how many there are. */
  readonly unusable: readonly UnusableRow[];
  readonly unusableCount: number;
  /** Columns that are not read: their heads, and why. */
  readonly unread: readonly { readonly head: string; readonly why: string }[];
  /** How much of it would stand outside the table that it was pasted onto. */
  readonly beyond: { readonly rows: number; readonly columns: number };
  /** The first of what is changed and added, in words. */
  readonly examples: readonly {
    readonly title: string;
    readonly isNew: boolean;
    /** `was` is null for a new record. */
    readonly fields: readonly { readonly label: string; readonly was: string | null; readonly is: string }[];
  }[];
  /** They are sent one by one, so that some may be changed and others not. */
  readonly oneByOne: boolean;
}

/** The rows of a spreadsheet as CSV, or why there are none. */
export type RowsAnswer =
  | { readonly ok: true; readonly text: string }
  | { readonly ok: false; readonly problem: Problem };

/** A record that was changed by somebody else meanwhile: what the person saw, and what it is; null where it is gone. */
export interface ConflictShown {
  readonly key: string;
  readonly title: string;
  readonly fields: readonly { readonly label: string; readonly saw: string; readonly is: string }[] | null;
  /** As it is now, to be sent back by whoever changes it all the same. */
  readonly is: Values | null;
}

/** A record that was sent by itself and was not changed, or is not known to be. */
export interface NotMade {
  readonly key: string;
  readonly title: string;
  readonly isKnown: boolean;
  readonly why: string;
}

export type ChangeAnswer =
  | { readonly state: 'look'; readonly look: ChangeLook }
  | { readonly state: 'compared'; readonly look: BlockLook }
  | {
      readonly state: 'done';
      readonly batch: string;
      readonly words: string;
      readonly canUndo: boolean;
      /** What was added, where one record was. */
      readonly added: { readonly key: string; readonly title: string } | null;
    }
  /** Sent one by one, and not all were made. */
  | {
      readonly state: 'each';
      readonly batch: string;
      readonly words: string;
      readonly canUndo: boolean;
      readonly notMade: readonly NotMade[];
    }
  | { readonly state: 'conflict'; readonly conflicts: readonly ConflictShown[] }
  /** What is wrong with the values, by field, and with those of each line. Nothing was sent. */
  | {
      readonly state: 'wrong';
      readonly wrong: Readonly<Record<string, string>>;
      readonly lines?: readonly Readonly<Record<string, string>>[];
    }
  | { readonly state: 'failed'; readonly problem: Problem }
  /** It was sent and its end is not known yet; that is found out, and the history says it. */
  | { readonly state: 'unknown' };
