import { type Filter, type FilterTest, isUnset } from '#core/ask/condition/resolve.ts';
import type { Column, LookUp, Request } from '#core/dataset/schema.ts';
import { boundsOf } from '#core/value/bins/bins.ts';
import type { FieldType } from '#core/value/field/types.ts';

/* Addresses of an OData 4.01 service (URL Conventions). Names and values reach one through these functions only. */

export type SetRequest = Extract<Request, { kind: 'table' }>;

const name = (text: string): string => {
  if (!/^[\p{L}\p{N}_.]+$/u.test(text)) throw new TypeError(`“${text}” is not a name in OData`);
  return text;
};

/** A value as OData writes it; text in quotes, doubled where it holds one. */
function literal(type: FieldType, value: string): string | null {
  switch (type) {
    case 'integer':
      return /^-?\d+$/.test(value) ? value : null;
    case 'decimal':
    case 'float':
      return /^-?\d+(\.\d+)?$/.test(value) ? value : null;
    case 'boolean':
      return value === 'true' || value === 'false' ? value : null;
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(value) ? value : null;
    case 'instant':
      return /^\d{4}-\d{2}-\d{2}T[\d:.]+Z$/.test(value) ? value : null;
    case 'text':
      return `'${value.replaceAll("'", "''")}'`;
    case 'nested':
      return null;
  }
}

type FieldColumn = (field: string) => { readonly path: string; readonly type: FieldType } | null;

/** Where each field comes from: a property, or a navigation and a property. */
export function columnsOf(request: SetRequest): FieldColumn {
  return (field) => {
    const own = request.columns.find((column) => column.name === field);
    if (own) return { path: name(own.column), type: own.type };
    for (const lookUp of request.lookUps) {
      const taken = lookUp.take.find((column) => column.name === field);
      if (taken) return { path: `${name(viaOf(lookUp))}/${name(taken.column)}`, type: taken.type };
    }
    return null;
  };
}

export const viaOf = ({ via, by }: LookUp): string => via ?? by;

const comparisons = { atLeast: 'ge', above: 'gt', atMost: 'le', below: 'lt' } as const;

/** A test as the service is told it. `true` keeps everything; null: the service cannot be told. */
type Said = string | true | null;

/** As the service would compare what is the same whatever its case; it may not think so by itself. */
const folded = (path: string, type: FieldType, value: string): string | null => {
  const text = literal(type, value);
  return text && (type === 'text' ? `tolower(${path}) eq tolower(${text})` : `${path} eq ${text}`);
};

/** An empty text is blank here. */
const blank = (path: string, type: FieldType): string =>
  type === 'text' ? `(${path} eq null or ${path} eq '')` : `${path} eq null`;

const parts = { contains: 'contains', startsWith: 'startswith', endsWith: 'endswith' } as const;

/** Blanks are said of each test, so that "not" of it means the same here and there. */
function testText(path: string, type: FieldType, test: FilterTest): Said {
  if (type === 'nested' && test.op !== 'blank' && test.op !== 'filled') return null;
  if (isUnset(test)) return true;
  switch (test.op) {
    case 'against':
      // Nobody is called nothing: an empty text there is blank here.
      return test.is === 'same' && 'value' in test.to && test.to.value
        ? folded(path, type, test.to.value)
        : null;
    case 'atLeast':
    case 'above':
    case 'atMost':
    case 'below': {
      // A service may put texts in another order.
      const value = type === 'text' ? null : literal(type, test.value);
      return value && `${path} ${comparisons[test.op]} ${value}`;
    }
    case 'between': {
      const [from, to] = [test.from, test.to].map((each) => (type === 'text' ? null : literal(type, each)));
      return from && to ? `(${path} ge ${from} and ${path} le ${to})` : null;
    }
    case 'within': {
      const ends = [['ge', test.from] as const, ['lt', test.to] as const].flatMap(([how, at]) =>
        at === null ? [] : [{ how, value: literal(type, at) }],
      );
      return ends.some(({ value }) => value === null)
        ? null
        : `(${ends.map(({ how, value }) => `${path} ${how} ${value}`).join(' and ')})`;
    }
    case 'same': {
      if (test.value === null) return blank(path, type);
      const value = literal(type, test.value);
      return value && `${path} eq ${value}`;
    }
    case 'filled':
      return type === 'text' ? `(${path} ne null and ${path} ne '')` : `${path} ne null`;
    case 'blank':
      return blank(path, type);
    case 'contains':
    case 'startsWith':
    case 'endsWith':
    case 'lacks': {
      const text = type === 'text' ? literal('text', test.text) : null;
      const how = test.op === 'lacks' ? parts.contains : parts[test.op];
      const holds = text && `(${path} ne null and ${how}(tolower(${path}),tolower(${text})))`;
      return test.op === 'lacks' ? holds && `not ${holds}` : holds;
    }
    case 'cycle':
      // By the clock of a zone, of which a service knows nothing.
      return null;
    case 'among':
      // Nobody asks for that but this product itself, of records that it has.
      return null;
    case 'bin':
      return binText(path, type, test);
    case 'is':
    case 'isNot':
      return listText(path, type, test);
  }
}

/** The numbers of a range; null for floats, which are put in ranges by their decimals. */
function binText(
  path: string,
  type: FieldType,
  { bins, value }: Extract<FilterTest, { op: 'bin' }>,
): string | null {
  if (value === null) return blank(path, type);
  if (type === 'float') return null;
  const { from, to } = boundsOf(Number(value), { ...bins, below: true, above: true });
  const ends = [
    ...(from === null ? [`${path} ne null`] : [`${path} ge ${from}`]),
    ...(to === null ? [] : [`${path} lt ${to}`]),
  ];
  return `(${ends.join(' and ')})`;
}

const mostListed = 50;

function listText(
  path: string,
  type: FieldType,
  { op, values }: Extract<FilterTest, { op: 'is' | 'isNot' }>,
): string | null {
  if (values.length > mostListed) return null;
  const each = values.map((value) => (value === null ? `(${blank(path, type)})` : folded(path, type, value)));
  if (each.some((text) => text === null)) return null;
  const listed = each.length === 1 ? (each[0] ?? null) : `(${each.join(' or ')})`;
  if (op === 'is' || listed === null) return listed;
  return values.includes(null) ? `not (${listed})` : `(${path} eq null or not (${listed}))`;
}

/** A filter as the service is told it; in part, where more may come than passes. */
function said(filter: Filter, columns: FieldColumn, inPart: boolean): Said {
  if ('all' in filter) {
    const each = filter.all.map((one) => said(one, columns, inPart));
    if (!inPart && each.includes(null)) return null;
    const parts = each.filter((text) => typeof text === 'string');
    if (parts.length > 0) return parts.join(' and ');
    return each.includes(null) ? null : true;
  }
  if ('any' in filter || 'none' in filter) {
    const isNone = 'none' in filter;
    // Of what must not be, a part says too much.
    const each = (isNone ? filter.none : filter.any).map((one) => said(one, columns, inPart && !isNone));
    if (each.includes(null) || (isNone && each.includes(true))) return null;
    if (isNone && each.length === 0) return true;
    if (each.length === 0) return null;
    if (each.includes(true)) return true;
    const any = `(${each.map((text) => `(${text})`).join(' or ')})`;
    return isNone ? `not ${any}` : any;
  }
  const column = columns(filter.field);
  return column && testText(column.path, column.type, filter.test);
}

/**
 * As much of a filter as the service can be asked to keep to, as `$filter`; null where there is nothing of it. What is
 * left out only lets more records through, and those are filtered when they are here.
 */
export function filterText(filter: Filter, columns: FieldColumn): string | null {
  const text = said(filter, columns, true);
  return text === true ? null : text;
}

/** Whether the service can be told all of a filter, so that what it counts is what passes. */
export const canSayAll = (filter: Filter, request: SetRequest): boolean =>
  said(filter, columnsOf(request), false) !== null;

export interface SetQuery {
  /** The fields that are needed; only these travel. */
  readonly fields: readonly string[];
  readonly filter?: Filter | undefined;
  readonly top?: number | undefined;
  readonly count?: boolean;
}

/** An address that others are under. */
export const asFolder = (base: string): string => (base.endsWith('/') ? base : `${base}/`);

/** The address that answers with nothing but how many records of a set pass (URL Conventions, section 4.8). */
export function countAddress(base: string, request: SetRequest, filter: Filter): string {
  const address = new URL(`${encodeURIComponent(name(request.table))}/$count`, asFolder(base));
  const text = filterText(filter, columnsOf(request));
  if (text !== null) address.search = `$filter=${encodeURIComponent(text)}`;
  return address.href;
}

/** The address of a set itself, which records are added to. */
export const setAddressToAdd = (base: string, { table }: { readonly table: string }): string =>
  new URL(encodeURIComponent(name(table)), asFolder(base)).href;

/** The address of one record (URL Conventions, section 4.3.1), with the columns that are wanted of it. */
export function recordAddress(
  base: string,
  { table, key }: { readonly table: string; readonly key: Column },
  value: string,
  columns: readonly Column[] = [],
): string {
  const text = literal(key.type, value);
  if (text === null) throw new TypeError(`“${value}” is not a key of ${table}`);
  const address = new URL(`${encodeURIComponent(name(table))}(${encodeURIComponent(text)})`, asFolder(base));
  if (columns.length > 0)
    address.search = `$select=${[...new Set(columns.map(({ column }) => name(column)))].join(',')}`;
  return address.href;
}

/** The address of the records of a set. */
export function setAddress(
  base: string,
  request: SetRequest,
  { fields, filter, top, count }: SetQuery,
): string {
  const address = new URL(encodeURIComponent(name(request.table)), asFolder(base));
  const wanted = (columns: readonly Column[]): string[] =>
    columns.filter((column) => fields.includes(column.name)).map((column) => name(column.column));
  const own = wanted(request.columns);
  const expanded = request.lookUps.flatMap((lookUp) => {
    const taken = wanted(lookUp.take);
    return taken.length > 0 ? [`${name(viaOf(lookUp))}($select=${[...new Set(taken)].join(',')})`] : [];
  });
  const options: [string, string | null][] = [
    ['$select', [...new Set(own)].join(',') || null],
    ['$expand', expanded.join(',') || null],
    ['$filter', filter ? filterText(filter, columnsOf(request)) : null],
    ['$top', top === undefined ? null : String(top)],
    ['$count', count ? 'true' : null],
  ];
  address.search = options
    .flatMap(([option, value]) => (value === null ? [] : [`${option}=${encodeURIComponent(value)}`]))
    .join('&');
  return address.href;
}

/** Where each field stands in a record of the answer, as a JSON Pointer. */
export function pointersOf(request: SetRequest, fields: readonly string[]): string[] {
  const columns = columnsOf(request);
  return fields.map((field) => `/${columns(field)?.path ?? ''}`);
}
