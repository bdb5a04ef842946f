import type { DataSet, Request } from '#core/dataset/schema.ts';
import type { Connection } from '#sources/connection.ts';
import type { ChangerForm } from '#sources/form.ts';
import { kindOf } from '#sources/registry.ts';

/** What a page needs to know of a kind of source. Plain data. */
export interface SourceTraits {
  /** The kinds of requests that can be made of it. */
  readonly requests: readonly Request['kind'][];
  /** What a data set of it asks while nothing has been said. */
  readonly begins: Pick<DataSet, 'request' | 'keep'> | null;
  readonly hasTables: boolean;
  /** What is asked for to name who changes its records; null where nobody can. */
  readonly changing: ChangerForm | null;
  /** Plans run on it as it is. */
  readonly isLive: boolean;
  /** It was made here, and not found: there is nothing to be tested or changed. */
  readonly isMade: boolean;
  /** It is there by itself: it is neither changed nor removed, and data sets of it are made where they are wanted. */
  readonly isBuiltIn: boolean;
}

export function traitsOf(connection: Connection): SourceTraits {
  const { requests, begins, hasTables, changing, live, adding } = kindOf(connection);
  return {
    requests,
    begins,
    hasTables,
    changing: changing?.(connection) ?? null,
    isLive: live !== undefined,
    isMade: adding !== null && 'make' in adding,
    isBuiltIn: adding === null,
  };
}

/** Of a page on which no source has been chosen yet. */
export const noTraits: SourceTraits = {
  requests: [],
  begins: null,
  hasTables: false,
  changing: null,
  isLive: false,
  isMade: false,
  isBuiltIn: false,
};
