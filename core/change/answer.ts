import type { ChangeRule, Way } from '#core/dataset/change/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Tone } from '#core/value/field/types.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { Values } from './change.ts';

/* What a page is told about changes. */

/** A field whose value is asked for. */
export interface AskedField {
  readonly field: Pick<Field, 'name' | 'type' | 'label' | 'unit' | 'states' | 'format'>;
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
  /** They are sent one by one, so that some may be changed and others not. */
  readonly oneByOne: boolean;
}

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
  | {
      readonly state: 'done';
      readonly batch: string;
      readonly words: string;
      readonly canUndo: boolean;
      /** The key of what was added, where one was. */
      readonly added: string | null;
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
  /** What is wrong with the values, by field. Nothing was sent. */
  | { readonly state: 'wrong'; readonly wrong: Readonly<Record<string, string>> }
  | { readonly state: 'failed'; readonly problem: Problem }
  /** It was sent and its end is not known yet; that is found out, and the history says it. */
  | { readonly state: 'unknown' };
