import pluralize from 'pluralize';

/** The plural of an English noun, for a wording that the analyst can still change: "branches", "categories". */
export const pluralOf = (noun: string): string => pluralize.plural(noun);
