import type { PaneView, ViewParts } from './view.ts';

/* How a list of records is looked at: a page at a time, in an order, searched, with some of its fields. */

/** The fields to sort by. */
export type ListOrder = readonly { readonly by: string; readonly descending?: boolean | undefined }[];

export interface ListView {
  /** From 1. */
  readonly page: number;
  /** Empty: as the pane has it. */
  readonly order: ListOrder;
  readonly search: string;
  /** The fields shown, in order; null: as the pane has them. */
  readonly columns: readonly string[] | null;
}

/** The parts of a list of these fields. */
export const listParts = (fields: readonly string[]): ViewParts => ({
  order: { takes: 'order', of: fields },
  show: { takes: 'shown', of: fields },
  find: { takes: 'text' },
  page: { takes: 'page' },
});

/** An order as an address has it, a text for each field, and back. */
export const orderTexts = (order: ListOrder): string[] =>
  order.map(({ by, descending }) => `${descending ? '-' : '+'}${by}`);
export const orderOf = (texts: readonly string[]): ListOrder =>
  texts.map((text) => ({ by: text.slice(1), descending: text.startsWith('-') }));

export const listViewOf = ({ page, order = [], find, show }: PaneView): ListView => ({
  page: Number(page?.[0] ?? 1),
  order: orderOf(order),
  search: find?.[0] ?? '',
  columns: show ?? null,
});

/** What a reader changes of how a list is looked at, as parts of its view. */
export const listViewParts = ({ page, order, search, columns }: Partial<ListView>): PaneView => ({
  ...(page === undefined ? {} : { page: page > 1 ? [String(page)] : [] }),
  ...(order === undefined ? {} : { order: orderTexts(order) }),
  ...(search === undefined ? {} : { find: search === '' ? [] : [search] }),
  ...(columns === undefined ? {} : { show: columns ?? [] }),
});

/** An order after the header of a field was chosen: by it, or the other way round; with `add` as well as by what there was. */
export function sortedBy(order: ListOrder, field: string, add: boolean): ListOrder {
  const now = order.find(({ by }) => by === field);
  const next = { by: field, descending: now ? !now.descending : false };
  return add ? [...order.filter(({ by }) => by !== field), next] : [next];
}
