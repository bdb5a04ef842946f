/* A change of records where they come from, as plain data. Values are canonical texts by the names of columns; null is blank. */

export type Values = Readonly<Record<string, string | null>>;

export type Change =
  /** `expected`: what whoever asks saw; where it is otherwise by now, nothing is changed. */
  | { readonly way: 'update'; readonly key: string; readonly expected: Values; readonly values: Values }
  | { readonly way: 'remove'; readonly key: string; readonly expected: Values }
  | { readonly way: 'insert'; readonly values: Values };

/** What became of one record: how it was and how it is, null where it was not or is not there. */
export interface ChangedRecord {
  readonly key: string;
  readonly before: Values | null;
  readonly after: Values | null;
  /** It came or went with the record before it. */
  readonly isLine?: true;
}

/** A record that comes with the one that is added, or goes before the one that is removed. */
export type LineChange = Exclude<Change, { way: 'update' }>;

/** A record that is not as it was seen; null where it is gone. */
export interface Conflict {
  readonly key: string;
  readonly is: Values | null;
  /** It is one of the lines of what was to be changed. */
  readonly isLine?: true;
}
