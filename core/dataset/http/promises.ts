import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { linkOf } from './limits.ts';
import { isObject } from './members.ts';
import type { PagedAnswer } from './paging.ts';
import type { Paging } from './schema.ts';

/*
 * What the answers of a service say of how much there is. What came is held against it, so that a list that was cut off is an
 * error and never a shorter truth.
 */

/** A member of an answer: its JSONPath, its name with those of the objects it is in, and its value. */
export interface Member {
  readonly path: string;
  readonly name: string;
  readonly value: unknown;
}

const deepest = 8;
const mostMembers = 2_000;

/** The members of an answer at any depth; lists are passed over, since what is in them is records. */
export function membersOf(body: unknown): Member[] {
  const found: Member[] = [];
  const walk = (value: unknown, path: string, name: string, depth: number): void => {
    if (!isObject(value) || depth > deepest) return;
    for (const [key, each] of Object.entries(value)) {
      if (found.length >= mostMembers) return;
      const inner = { path: `${path}[${JSON.stringify(key)}]`, name: name === '' ? key : `${name}.${key}` };
      if (isObject(each)) walk(each, inner.path, inner.name, depth + 1);
      else if (!Array.isArray(each)) found.push({ ...inner, value: each });
    }
  };
  walk(body, '$', '', 0);
  return found;
}

export const lastName = (name: string): string => name.replace(/^.*\./, '');

const totals =
  /^(total|total_?(count|records|results|items|hits|elements|rows|size)|records?_?total|record_?count|num_?found)$/i;
const pages = /^(pages|total_?pages|page_?count|num_?pages|last_?page)$/i;
const more = /^(has_?more|more|has_?next(_?page)?|more_?(results|records|data)(_?available)?)$/i;
/** Objects of an answer that speak of the answer itself. */
const aboutItself = /^(meta|metadata|paging|pagination|page|page_?info|links|_links|summary)$/i;

/** How many records there are in all, by what an answer says; null where it says nothing. */
export function totalOf(members: readonly Member[], count: number): number | null {
  const links = members.flatMap(({ name, value }) => {
    const whole =
      typeof value === 'number'
        ? value
        : typeof value === 'string' && /^\d+$/.test(value)
          ? Number(value)
          : Number.NaN;
    if (!Number.isSafeInteger(whole) || whole < 0) return [];
    const parts = name.split('.');
    const last = parts.at(-1) ?? '';
    if (totals.test(last)) return [whole];
    const within = parts.at(-2);
    const isPlace = within === undefined || aboutItself.test(within);
    return /^(count|records|results)$/i.test(last) && isPlace && whole > count ? [whole] : [];
  });
  return links.length === 0 ? null : Math.max(...links);
}

/** How many pages there are in all, by what an answer says. */
export function pagesOf(members: readonly Member[]): number | null {
  const pageCount = members.find(({ name, value }) => pages.test(lastName(name)) && Number.isInteger(value));
  return pageCount ? Number(pageCount.value) : null;
}

/** Whether an answer says that more follows; null where it does not speak of it. */
export function saysMore(members: readonly Member[]): boolean | null {
  const hasMore = members.find(({ name, value }) => more.test(lastName(name)) && typeof value === 'boolean');
  return hasMore ? hasMore.value === true : null;
}

/** An address of what comes next in an answer. */
export const nextAddressIn = (members: readonly Member[]): Member | undefined =>
  members.find(
    ({ name, value }) =>
      /next/i.test(name.split('.').slice(-2).join('.')) &&
      typeof value === 'string' &&
      /^(https?:\/\/|\/|\?)/.test(value),
  );

/**
 * Why what came cannot be all that there is, held against the last answer; null where it adds up. `fetched`: records of all
 * pages; `page`: the number of the last one, from 0.
 */
export function cutOff(
  paging: Paging,
  { page, fetched }: { page: number; fetched: number },
  answer: PagedAnswer,
): string | null {
  if (paging.kind === 'first') return null;
  const members = membersOf(answer.body);
  const came = `${counted(fetched, 'record')} came`;
  const total = totalOf(members, answer.count);
  if (total !== null && total > fetched)
    return `${came}, but the service says that there are ${formatNumber(String(total))}`;
  const all = pagesOf(members);
  if (all !== null && all > page + 1)
    return `${counted(page + 1, 'page')} came, but the service says that there are ${all}`;
  if (saysMore(members) === true) return `${came}, but the last answer says that there are more`;
  if (linkOf(answer.header('link'), 'next'))
    return `${came}, but the last answer names a next page in its Link header`;
  const next = nextAddressIn(members);
  return next ? `${came}, but the last answer names a next page at ${next.path}` : null;
}
