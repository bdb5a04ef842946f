import type { ComponentType } from 'react';
import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { FieldChoice } from '#server/store/data-sets.ts';
import type { Trial } from '#sources/kind.ts';

/* How the ways of asking a source are described on the page of a data set. */

export interface RequestProps<R extends Request> {
  readonly request: R;
  readonly definition: DataSet;
  /** The data sets that its steps refer to. */
  readonly world: World;
  /** Of the source. */
  readonly tables: readonly FoundTable[];
  /** What the values of its inputs can be among. */
  readonly choices: readonly FieldChoice[];
  /** The first records, as they came last; null while nobody has asked. */
  readonly tried: Trial | null;
  /** Changes the definition as it is when the change is made, which may be later than this was drawn. */
  readonly onChange: (change: (now: DataSet) => DataSet) => void;
  /** Another request in place of this one; `again`: its records are looked at again, read as it now says. */
  readonly onRequest: (request: R, again?: boolean) => void;
  /** What else of the source is chosen; its records are looked at again. */
  readonly onChoose: (definition: DataSet) => void;
}

/** What a data set can begin with, where a source offers several ways of asking. */
export interface StartProps {
  readonly source: string;
  readonly tables: readonly FoundTable[];
  readonly onStart: (definition: DataSet) => void;
}

export interface RequestScreen<R extends Request> {
  readonly Start?: ComponentType<StartProps>;
  /** How it is asked. */
  readonly Call?: ComponentType<RequestProps<R>>;
  /** What of the answer is taken. */
  readonly Answer?: ComponentType<RequestProps<R>>;
  /** What decides how an answer looks: where it is other, it is found out again how it is to be read. */
  readonly looks?: (request: R) => string;
  /** It can be asked as it stands. */
  readonly mayTry?: (request: R) => boolean;
  /** Its fields are known before it is asked. */
  readonly isKnown?: true;
  /** Its fields, and what identifies a record, are what the source says: an answer changes nothing of them. */
  readonly isSaidBySource?: true;
  /** Its records are nowhere but where they are kept. */
  readonly isOnlyKept?: true;
  /** Where its records are looked at, if not here. */
  readonly elsewhere?: string;
}
