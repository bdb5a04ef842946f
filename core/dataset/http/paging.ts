import { valuesAt } from './json-path.ts';
import { linkOf } from './limits.ts';
import { lastName, membersOf, nextAddressIn, pagesOf, saysMore, totalOf } from './promises.ts';
import type { HttpCall, Paging } from './schema.ts';

/** What of an answer tells how to go on. */
export interface PagedAnswer {
  /** The address that was asked. */
  readonly address: string;
  readonly header: (name: string) => string | null;
  /** The parsed body; undefined where it is no JSON. */
  readonly body: unknown;
  /** Records that the page had. */
  readonly count: number;
}

/** What changes for the next page: parameters of the query, a whole address, or a member of the body. */
export type NextPage =
  | { readonly parameters: Readonly<Record<string, string>> }
  | { readonly address: string }
  /** A member of the body, by its JSON pointer (RFC 6901). */
  | { readonly body: { readonly at: string; readonly value: string } };

/** The one value at a JSONPath, as text; null where there is none. */
export function textAt(body: unknown, path: string): string | null {
  if (body === undefined) return null;
  const [first] = valuesAt(path, body);
  return typeof first === 'string' || typeof first === 'number' ? String(first) : null;
}

/** What the first page is asked with besides the call itself. */
export function firstPage(paging: Paging): Record<string, string> {
  switch (paging.kind) {
    case 'page':
      return {
        [paging.parameter]: String(paging.from),
        ...(paging.size ? { [paging.size.parameter]: String(paging.size.count) } : {}),
      };
    case 'offset':
      return { [paging.parameter]: '0', [paging.size.parameter]: String(paging.size.count) };
    default:
      return {};
  }
}

/**
 * What to ask after the page of a number (from 0) that gave an answer; null where it was the last. `fetched`: records so far;
 * `largest`: those of the largest page so far, since a service may give fewer at a time than it was asked for.
 */
export function nextPage(
  paging: Paging,
  { page, fetched, largest }: { page: number; fetched: number; largest: number },
  answer: PagedAnswer,
): NextPage | null {
  switch (paging.kind) {
    case 'none':
    case 'first':
      return null;
    case 'page':
      if (isLast(paging.size?.count, { page, fetched, largest }, answer)) return null;
      return {
        parameters: { ...firstPage(paging), [paging.parameter]: String(paging.from + page + 1) },
      };
    case 'offset':
      if (isLast(paging.size.count, { page, fetched, largest }, answer)) return null;
      return { parameters: { ...firstPage(paging), [paging.parameter]: String(fetched) } };
    case 'cursor': {
      const cursor = textAt(answer.body, paging.at);
      // A cursor may stand in the last answer too, beside the word that nothing follows.
      if (!cursor || saysMore(membersOf(answer.body)) === false) return null;
      return paging.parameter.startsWith('/')
        ? { body: { at: paging.parameter, value: cursor } }
        : { parameters: { [paging.parameter]: cursor } };
    }
    case 'link': {
      const next = linkOf(answer.header('link'), 'next');
      return next ? { address: new URL(next, answer.address).href } : null;
    }
    case 'next': {
      const next = textAt(answer.body, paging.at);
      return next ? { address: new URL(next, answer.address).href } : null;
    }
  }
}

/** Whether a page is the last: by what the answer promises, else by its being empty or shorter than those before. */
function isLast(
  size: number | undefined,
  { page, fetched, largest }: { page: number; fetched: number; largest: number },
  answer: PagedAnswer,
): boolean {
  if (answer.count === 0) return true;
  const members = membersOf(answer.body);
  const [total, all, more] = [totalOf(members, answer.count), pagesOf(members), saysMore(members)];
  if (total !== null) return fetched >= total;
  if (all !== null) return page + 1 >= all;
  if (more !== null) return !more;
  if (size === undefined) return false;
  // The first page may be short since that is as many as the service ever gives: only the next one tells.
  return page > 0 && answer.count < Math.min(size, largest);
}

/** How the rest of the records seems to be asked for, from a first answer. */
export function recognisePaging(call: HttpCall, answer: PagedAnswer): Paging {
  if (linkOf(answer.header('link'), 'next')) return { kind: 'link' };
  const members = membersOf(answer.body);
  const address = nextAddressIn(members);
  if (address) return { kind: 'next', at: address.path };
  const cursor = members.find(
    ({ name, value }) =>
      typeof value === 'string' &&
      value !== '' &&
      /(cursor|continu|after|next.*(token|key)|^next$|[._]next$)/i.test(name) &&
      !/(start|prev|before)[^.]*$/i.test(name),
  );
  if (cursor && saysMore(members) !== false)
    return { kind: 'cursor', at: cursor.path, parameter: cursorParameter(call, cursor.name) };
  const parameters = new Map(call.query.map(({ name, value }) => [name.toLowerCase(), { name, value }]));
  const sizeOf = (names: RegExp): { parameter: string; count: number } | undefined => {
    const found = [...parameters.values()].find(({ name, value }) => names.test(name) && /^\d+$/.test(value));
    if (found) return { parameter: found.name, count: Number(found.value) };
    const sizeMember = members.find(
      ({ name, value }) => names.test(lastName(name)) && Number.isInteger(value),
    );
    return sizeMember && Number(sizeMember.value) > 0
      ? { parameter: lastName(sizeMember.name), count: Number(sizeMember.value) }
      : undefined;
  };
  const sizes = /^(limit|size|per_?page|page_?size|count|take|top)$/i;
  const size = sizeOf(sizes);
  const page = members.find(
    ({ name, value }) => /^(page|page_?(number|no|index))$/i.test(lastName(name)) && Number.isInteger(value),
  );
  const isMore =
    (pagesOf(members) ?? 0) > 1 ||
    (totalOf(members, answer.count) ?? 0) > answer.count ||
    saysMore(members) === true;
  if (page && isMore) {
    const parameter =
      [...parameters.values()].find(({ name }) => /^page/i.test(name))?.name ?? lastName(page.name);
    return { kind: 'page', parameter, from: Number(page.value) === 0 ? 0 : 1, ...(size ? { size } : {}) };
  }
  const offset = members.find(
    ({ name, value }) => /^(offset|skip|start)$/i.test(lastName(name)) && Number.isInteger(value),
  );
  if (offset && size && isMore) return { kind: 'offset', parameter: lastName(offset.name), size };
  return { kind: 'none' };
}

/**
 * What a cursor is sent as: a member of the body, as a JSON pointer, where the call has a body that names one; else a query
 * parameter of that name where the call has one, else one called as the cursor is.
 */
function cursorParameter(call: HttpCall, name: string): string {
  const inBody = call.body === undefined ? undefined : cursorInBody(call.body);
  if (inBody !== undefined) return inBody;
  const known = call.query.find(({ name: of }) => /cursor|after|token/i.test(of));
  if (known) return known.name;
  const last = lastName(name).replace(/^next[_-]?/i, '');
  return last ? last.charAt(0).toLowerCase() + last.slice(1) : 'cursor';
}

/** Where a body takes a cursor: at a member that is called so, else among the variables of a query. */
function cursorInBody(body: string): string | undefined {
  let parsed: unknown;
  try {
    parsed = JSON.parse(body);
  } catch {
    return undefined;
  }
  const known = membersOf(parsed).find(({ name }) =>
    /^(cursor|after|page_?token|continuation)/i.test(lastName(name)),
  );
  if (known) return `/${known.name.replaceAll('.', '/')}`;
  return parsed !== null && typeof parsed === 'object' && 'query' in parsed ? '/variables/after' : undefined;
}
