/* How a reader looks at a pane, beside the scope: at which page, in which order. It stands in the address, part by part. */

/** The texts of each part, as an address has them; a part without any is not there. */
export type PaneView = Readonly<Record<string, readonly string[]>>;

/** What a part of a view can say. */
export type ViewPart =
  /** A whole number from 1. What narrows the records goes back to the first. */
  | { readonly takes: 'page' }
  | { readonly takes: 'text' }
  /** Fields to sort by, each behind `+` or `-`. */
  | { readonly takes: 'order'; readonly of: readonly string[] }
  /** Which fields are shown, of those that are asked for anyway. */
  | { readonly takes: 'shown'; readonly of: readonly string[] }
  /** What of it is open or closed, by names of the pane's own: it is asked the same whichever they are. */
  | { readonly takes: 'opened' };

/** The parts that a kind's views have, by the name that stands in addresses. */
export type ViewParts = Readonly<Record<string, ViewPart>>;

const mostOrders = 8;
const mostText = 500;
const mostOpened = 500;
const mostName = 4000;

/** What an address says of a part. A field that the pane does not show is as if it did not exist. */
export function readPart(part: ViewPart, texts: readonly string[]): readonly string[] {
  const [first = ''] = texts;
  switch (part.takes) {
    case 'page':
      return /^[1-9]\d{0,8}$/.test(first) && first !== '1' ? [first] : [];
    case 'text':
      return first === '' ? [] : [first.slice(0, mostText)];
    case 'order':
      return texts.slice(0, mostOrders).filter((text) => part.of.includes(text.slice(1)));
    case 'shown':
      return [...new Set(texts)].filter((name) => part.of.includes(name));
    case 'opened':
      return [...new Set(texts)].filter((name) => name.length <= mostName).slice(0, mostOpened);
  }
}

/** A view with some of its parts replaced. */
export const withParts = (view: PaneView, parts: PaneView): PaneView =>
  Object.fromEntries(Object.entries({ ...view, ...parts }).filter(([, texts]) => texts.length > 0));
