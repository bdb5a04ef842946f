import { valuesAt } from './json-path.ts';
import { linkOf } from './limits.ts';
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

/** What changes for the next page: parameters of the query, or a whole address. */
export type NextPage =
  | { readonly parameters: Readonly<Record<string, string>> }
  | { readonly address: string };

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

/** What to ask after the page of a number (from 0) that gave an answer; null where it was the last. `fetched`: records so far. */
export function nextPage(
  paging: Paging,
  { page, fetched }: { page: number; fetched: number },
  answer: PagedAnswer,
): NextPage | null {
  switch (paging.kind) {
    case 'none':
      return null;
    case 'page':
      if (answer.count === 0 || (paging.size && answer.count < paging.size.count)) return null;
      return {
        parameters: { ...firstPage(paging), [paging.parameter]: String(paging.from + page + 1) },
      };
    case 'offset':
      if (answer.count < paging.size.count) return null;
      return { parameters: { ...firstPage(paging), [paging.parameter]: String(fetched) } };
    case 'cursor': {
      const cursor = textAt(answer.body, paging.at);
      return cursor ? { parameters: { [paging.parameter]: cursor } } : null;
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

const isObject = (value: unknown): value is Record<string, unknown> =>
  value !== null && typeof value === 'object' && !Array.isArray(value);

/** The members of the answer and of the objects directly in it, with their paths; lists are passed over. */
function shallow(body: unknown): [string, string, unknown][] {
  if (!isObject(body)) return [];
  return Object.entries(body).flatMap(([name, value]): [string, string, unknown][] => {
    const path = `$[${JSON.stringify(name)}]`;
    return isObject(value)
      ? Object.entries(value).map(([inner, each]) => [
          `${path}[${JSON.stringify(inner)}]`,
          `${name}.${inner}`,
          each,
        ])
      : [[path, name, value]];
  });
}

/** How the rest of the records seems to be asked for, from a first answer. */
export function recognisePaging(call: HttpCall, answer: PagedAnswer): Paging {
  if (linkOf(answer.header('link'), 'next')) return { kind: 'link' };
  const members = shallow(answer.body);
  const address = members.find(
    ([, name, value]) =>
      /next/i.test(name) && typeof value === 'string' && /^(https?:\/\/|\/|\?)/.test(value),
  );
  if (address) return { kind: 'next', at: address[0] };
  const cursor = members.find(
    ([, name, value]) =>
      typeof value === 'string' &&
      value !== '' &&
      /(cursor|continu|after|next.*(token|key)|^next$|[._]next$)/i.test(name),
  );
  if (cursor) return { kind: 'cursor', at: cursor[0], parameter: cursorParameter(call, cursor[1]) };
  const asked = new Map(call.query.map(({ name, value }) => [name.toLowerCase(), { name, value }]));
  const sizeOf = (names: RegExp): { parameter: string; count: number } | undefined => {
    const found = [...asked.values()].find(({ name, value }) => names.test(name) && /^\d+$/.test(value));
    if (found) return { parameter: found.name, count: Number(found.value) };
    const told = members.find(
      ([, name, value]) => names.test(name.replace(/^.*\./, '')) && Number.isInteger(value),
    );
    return told && Number(told[2]) > 0
      ? { parameter: told[1].replace(/^.*\./, ''), count: Number(told[2]) }
      : undefined;
  };
  const sizes = /^(limit|size|per_?page|page_?size|count|take|top)$/i;
  const size = sizeOf(sizes);
  const last = (name: string): string => name.replace(/^.*\./, '');
  const page = members.find(
    ([, name, value]) => /^(page|page_?(number|no|index))$/i.test(last(name)) && Number.isInteger(value),
  );
  const isMore = members.some(
    ([, name, value]) =>
      (/^(pages|total_?pages|page_?count|last_?page)$/i.test(last(name)) && Number(value) > 1) ||
      (/^(total|total_?count|count|records)$/i.test(last(name)) && Number(value) > answer.count) ||
      (/^(has_?more|more)$/i.test(last(name)) && value === true),
  );
  if (page && isMore) {
    const parameter = [...asked.values()].find(({ name }) => /^page/i.test(name))?.name ?? last(page[1]);
    return { kind: 'page', parameter, from: Number(page[2]) === 0 ? 0 : 1, ...(size ? { size } : {}) };
  }
  const offset = members.find(
    ([, name, value]) => /^(offset|skip|start)$/i.test(last(name)) && Number.isInteger(value),
  );
  if (offset && size && isMore) return { kind: 'offset', parameter: last(offset[1]), size };
  return { kind: 'none' };
}

/** The query parameter that a cursor goes into: one of that name where the call has one, else as the cursor is called. */
function cursorParameter(call: HttpCall, name: string): string {
  const known = call.query.find(({ name: of }) => /cursor|after|token/i.test(of));
  if (known) return known.name;
  const last = name.replace(/^.*\./, '').replace(/^next[_-]?/i, '');
  return last ? last.charAt(0).toLowerCase() + last.slice(1) : 'cursor';
}
