/** In which of its editions a dashboard is looked at: what readers have, the draft, or a version by its number. */
export type Edition = 'published' | 'draft' | number;

const field = '_edition';
const numbered = /^[1-9]\d{0,8}$/;

/** Says an edition in an address; what readers have needs no saying. */
export function setEdition(params: URLSearchParams, edition: Edition): void {
  if (edition !== 'published') params.set(field, String(edition));
}

/** The edition that an address says. Null where what it says is none. */
export function readEdition(params: URLSearchParams): Edition | null {
  const text = params.get(field);
  return text === null ? 'published' : editionFrom(text);
}

/** An edition from what is said of it; null where that is none. */
export const editionFrom = (text: string): Edition | null =>
  text === 'draft' || text === 'published' ? text : numbered.test(text) ? Number(text) : null;

/** By what name pages watch a dashboard: its id, with the edition behind it where that is not what readers have. */
export const watchedAs = (id: string, edition: Edition): string =>
  edition === 'published' ? id : `${id}.${edition}`;
