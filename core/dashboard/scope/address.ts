import { mostValues } from '#core/ask/condition/limits.ts';
import { type PaneView, readPart, type ViewPart, withParts } from '#core/dashboard/pane/view.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Unit, units } from '#core/value/period/units.ts';
import {
  type FieldPath,
  type Focus,
  type OwnGroup,
  type OwnPart,
  type OwnTest,
  pathText,
  type Scope,
  type Vocabulary,
} from './state.ts';
import { testFromTexts, testToTexts } from './test-text.ts';

/**
 * A scope and its address form are two writings of one thing: reading back what was written gives the same scope. What
 * cannot be read is left out and said, never guessed at and never an error page.
 */
export interface ReadScope {
  readonly scope: Scope;
  /** One sentence for each part of the address that was left out. */
  readonly problems: readonly string[];
}

const mostOwn = 20;
const mostFocus = 12;

/** The parameters of an address that say its scope: without those of the page, which begin with an underscore. */
export const scopeParams = (address: string | URLSearchParams): URLSearchParams =>
  new URLSearchParams([...new URLSearchParams(address)].filter(([name]) => !name.startsWith('_')));

/** Reads the query part of an address. Parameters that begin with an underscore belong to the page, not the scope. */
export function readScope(params: URLSearchParams, vocabulary: Vocabulary): ReadScope {
  const problems: string[] = [];
  const clauses: Record<string, Scope['clauses'][string]> = {};
  const views: Record<string, PaneView> = {};
  for (const name of new Set(params.keys())) {
    if (name === 'at' || name === 'and' || name.startsWith('_')) continue;
    const clause = vocabulary.clauses.find((each) => each.name === name);
    const [pane = '', part = ''] = splitLast(name, '.');
    const viewPart = ownPart(vocabulary.views, pane, part);
    if (clause) {
      const read = testFromTexts(params.getAll(name), clause.type);
      if (read.ok) clauses[name] = read.test;
      else problems.push(`“${short(name)}” in the address was left out: ${short(read.why)}.`);
    } else if (viewPart)
      views[pane] = withParts(views[pane] ?? {}, { [part]: readPart(viewPart, params.getAll(name)) });
    else problems.push(`“${short(name)}” in the address means nothing on this dashboard and was left out.`);
  }
  const focus = params
    .getAll('at')
    .slice(0, mostFocus)
    .flatMap((text): Focus[] => {
      const read = readFocus(text, vocabulary);
      if (!read) problems.push(`What was being looked at, “${short(text)}”, is not on this dashboard.`);
      return read ? [read] : [];
    });
  const own = params
    .getAll('and')
    .slice(0, mostOwn)
    .flatMap((text): OwnGroup[] => {
      const group = readGroup(text, vocabulary);
      if (group) return [group];
      problems.push(`“${short(text)}” in the address is not understood and was left out.`);
      return [];
    });
  return { scope: { clauses, own, focus, views }, problems };
}

/** Writes a scope as the query part of an address. */
export function writeScope(scope: Scope): URLSearchParams {
  const params = new URLSearchParams();
  for (const [name, test] of Object.entries(scope.clauses))
    for (const text of testToTexts(test)) params.append(name, text);
  for (const group of scope.own) params.append('and', group.flatMap(partTexts).map(escaped).join('|'));
  for (const focus of scope.focus) params.append('at', focusText(focus));
  for (const [pane, view] of Object.entries(scope.views))
    for (const [part, texts] of Object.entries(view))
      for (const text of texts) params.append(`${pane}.${part}`, text);
  return params;
}

/** Marks that may stand in a query as they are (RFC 3986, 3.4), so that an address can be read by a person. */
const readable: Record<string, string> = {
  '%7E': '~',
  '%3A': ':',
  '%40': '@',
  '%2C': ',',
  '%7C': '|',
  '%2F': '/',
};

/** Parameters as the text of an address, with no more percent signs than it needs. */
export const queryText = (params: URLSearchParams): string =>
  params.toString().replace(/%(7E|3A|40|2C|7C|2F)/g, (code) => readable[code] ?? code);

const short = (text: string): string => (text.length > 80 ? `${text.slice(0, 80)}…` : text);

function splitLast(text: string, mark: string): [string, string] {
  const at = text.lastIndexOf(mark);
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)];
}

/** What an address may say of a part of how a pane is looked at. */
function ownPart(views: Vocabulary['views'], pane: string, part: string): ViewPart | undefined {
  const parts = Object.hasOwn(views, pane) ? views[pane] : undefined;
  return parts && Object.hasOwn(parts, part) ? parts[part] : undefined;
}

/** `dataSet.field` of the vocabulary, with the field's type. */
function readPath(text: string, vocabulary: Vocabulary) {
  const at = text.indexOf('.');
  const dataSet = text.slice(0, at);
  const name = text.slice(at + 1);
  const known = Object.hasOwn(vocabulary.dataSets, dataSet) ? vocabulary.dataSets[dataSet] : undefined;
  const field = known?.fields.find((each) => each.name === name);
  return field ? { dataSet, field: name, type: field.type } : null;
}

/** `sailings.cause:weather`, `sailings.departs@week:2026-11-16`, `sailings.cause:~blank`. */
export function focusText({ unit, value, ...path }: Focus): string {
  return `${pathText(path)}${unit ? `@${unit}` : ''}:${value === null ? '~blank' : value.startsWith('~') ? `~${value}` : value}`;
}

function readFocus(text: string, vocabulary: Vocabulary): Focus | null {
  for (let at = text.indexOf(':'); at >= 0; at = text.indexOf(':', at + 1)) {
    // A field's own name may end like a unit, so the whole is tried as a name first.
    const plain = readPath(text.slice(0, at), vocabulary);
    const [name, unitName] = splitLast(text.slice(0, at), '@');
    const unit: Unit | undefined = plain ? undefined : units.find((each) => each === unitName);
    const path = plain ?? (unit ? readPath(name, vocabulary) : null);
    if (!path) continue;
    const value = text.slice(at + 1);
    if (value === '~blank')
      return { dataSet: path.dataSet, field: path.field, ...(unit ? { unit } : {}), value: null };
    const read = testFromTexts([value], unit && unit !== 'hour' ? 'date' : path.type);
    if (!read.ok || read.test?.op !== 'is') return null;
    const [only = null] = read.test.values;
    return { dataSet: path.dataSet, field: path.field, ...(unit ? { unit } : {}), value: only };
  }
  return null;
}

/*
 * A group of the reader's own, its pieces between bars: `sailings.cause=fog|sailings.delay=~atleast.20` holds where either does.
 * What begins with `~and.` must hold beside what stands before it, what begins with `~also.` is another value of that.
 */
const joined = '~and.';
const also = '~also.';

const partTexts = (part: OwnPart): string[] =>
  part.flatMap((test, at) =>
    testToTexts(test.test).map((text, index) =>
      index > 0 ? `${also}${text}` : `${at > 0 ? joined : ''}${pathText(test)}=${text}`,
    ),
  );

function readGroup(text: string, vocabulary: Vocabulary): OwnGroup | null {
  const pieces = splitEscaped(text);
  if (pieces.length > mostValues) return null;
  const parts: { path: FieldPath & { type: FieldType }; texts: string[] }[][] = [];
  for (const piece of pieces) {
    if (piece.startsWith(also)) {
      const before = parts.at(-1)?.at(-1);
      if (!before) return null;
      before.texts.push(piece.slice(also.length));
      continue;
    }
    const isJoined = piece.startsWith(joined);
    const test = readEqual(isJoined ? piece.slice(joined.length) : piece, vocabulary);
    if (!test) return null;
    const part = isJoined ? parts.at(-1) : undefined;
    if (part) part.push(test);
    else parts.push([test]);
  }
  const group = parts.map((part) =>
    part.map(({ path: { dataSet, field, type }, texts }): OwnTest | null => {
      const read = testFromTexts(texts, type);
      return read.ok && read.test ? { dataSet, field, test: read.test } : null;
    }),
  );
  const isRead = (part: (OwnTest | null)[]): part is OwnTest[] => !part.includes(null);
  return group.every(isRead) ? group : null;
}

/** `sailings.cause=fog`: a path that is known, and the text of a test of it. */
function readEqual(text: string, vocabulary: Vocabulary) {
  for (let at = text.indexOf('='); at >= 0; at = text.indexOf('=', at + 1)) {
    const path = readPath(text.slice(0, at), vocabulary);
    if (path) return { path, texts: [text.slice(at + 1)] };
  }
  return null;
}

const escaped = (text: string): string => text.replace(/[\\|]/g, '\\$&');

/** Splits at bars that are not escaped. */
function splitEscaped(text: string): string[] {
  const parts = [''];
  for (const piece of text.match(/\\[\s\S]|\||[^\\|]+|\\$/g) ?? []) {
    if (piece === '|') parts.push('');
    else parts[parts.length - 1] += piece.startsWith('\\') ? piece.slice(1) : piece;
  }
  return parts;
}
