import type { Field } from '#core/value/field/field.ts';
import { meaningOf } from '#core/value/field/value.ts';
import type { DataSet } from './schema.ts';

/* What fields of other sources than databases stand for, proposed by what was measured of their values. Pure. */

/** A field whose values stand in a field of another data set, and what share of them: 0…1. */
export interface MeasuredPair {
  readonly field: string;
  readonly dataSet: string;
  readonly other: string;
  readonly overlap: number;
}

/** What a field could be said to stand for. */
export interface Meaning {
  readonly field: string;
  /** What is said of the field; null where the other data set does not say yet what identifies its records. */
  readonly refers: string | null;
  /** What one of the records is called that it identifies or points at, and several of them. */
  readonly noun: DataSet['noun'];
  /** Where its values were found, and what share of them; absent where it is the records' own identifier. */
  readonly found?: { readonly dataSet: string; readonly overlap: number };
}

/** Fewer shared values than this are taken for chance. */
const leastOverlap = 0.5;

/** A word for a noun that meanings can be: one that is taken for the same whatever the source. */
const wordOf = (noun: string): string => noun.trim().toLowerCase().replaceAll('.', ' ');

/**
 * What fields could be said to stand for that say nothing yet: the records' own identifier, and fields whose values are, for the
 * most part, identifiers of another data set's records.
 */
export function proposedMeanings(
  definition: DataSet,
  pairs: readonly MeasuredPair[],
  world: ReadonlyMap<string, DataSet>,
): Meaning[] {
  const { fields, key, noun, source } = definition;
  const fieldOf = (name: string | undefined): Field | undefined => fields.find((each) => each.name === name);
  const isOpen = (field: Field | undefined): field is Field =>
    field !== undefined && meaningOf(field) === undefined;
  const own = fieldOf(key);
  const pointing = pairs.flatMap(({ field: name, dataSet, other, overlap }): Meaning[] => {
    const there = world.get(dataSet);
    const field = fieldOf(name);
    if (!there || there.key !== other || !isOpen(field) || overlap < leastOverlap) return [];
    const theirs = there.fields.find((each) => each.name === other);
    const meaning = (theirs && meaningOf(theirs)) ?? null;
    // A column of one source says nothing to another.
    if (meaning?.includes('.') && there.source !== source) return [];
    return [{ field: name, refers: meaning, noun: there.noun, found: { dataSet, overlap } }];
  });
  const best = pointing.filter((each, at) => pointing.findIndex(({ field }) => field === each.field) === at);
  // What points at others is no word for these records.
  const isOwn = isOpen(own) && noun.one !== 'record' && !best.some(({ field }) => field === own.name);
  return [...(isOwn ? [{ field: own.name, refers: wordOf(noun.one), noun }] : []), ...best];
}
