import type { Filter, FilterTest } from '#core/condition/resolve.ts';
import type { Column, LookUp, Request } from '#core/dataset/schema.ts';
import type { FieldType } from '#core/field/types.ts';

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

const comparisons: Partial<Record<FilterTest['op'], string>> = {
  atLeast: 'ge',
  above: 'gt',
  atMost: 'le',
  below: 'lt',
};

function testText(path: string, type: FieldType, test: FilterTest): string | null {
  const compared = comparisons[test.op];
  if (compared && 'value' in test && test.value !== null && type !== 'text') {
    const value = literal(type, test.value);
    return value && `${path} ${compared} ${value}`;
  }
  if (test.op === 'same') {
    if (test.value === null) return `${path} eq null`;
    const value = literal(type, test.value);
    return value && `${path} eq ${value}`;
  }
  if (test.op === 'filled') return `${path} ne null`;
  if (test.op === 'blank') return type === 'text' ? `(${path} eq null or ${path} eq '')` : `${path} eq null`;
  if (test.op === 'within' && (type === 'date' || type === 'instant')) {
    const from = test.from === null ? null : literal(type, test.from);
    const to = test.to === null ? null : literal(type, test.to);
    return [from && `${path} ge ${from}`, to && `${path} lt ${to}`].filter(Boolean).join(' and ') || null;
  }
  if (test.op === 'is' && 'values' in test && test.values.length > 0 && test.values.length <= 50) {
    const each = test.values.map((value) => (value === null ? null : literal(type, value)));
    if (each.some((value) => value === null)) return null;
    // Text is the same whatever its case; the service may not think so by itself.
    const texts = each.map((value) =>
      type === 'text' ? `tolower(${path}) eq tolower(${value})` : `${path} eq ${value}`,
    );
    return texts.length === 1 ? (texts[0] ?? null) : `(${texts.join(' or ')})`;
  }
  return null;
}

/**
 * As much of a filter as the service can be asked to keep to, as `$filter`; null where there is nothing of it. What is
 * left out only lets more records through, and those are filtered when they are here.
 */
export function filterText(filter: Filter, columns: FieldColumn): string | null {
  if ('all' in filter) {
    const parts = filter.all.flatMap((each) => filterText(each, columns) ?? []);
    return parts.length > 0 ? parts.join(' and ') : null;
  }
  if ('any' in filter) {
    const parts = filter.any.map((each) => filterText(each, columns));
    return parts.length > 0 && parts.every((part) => part !== null)
      ? `(${parts.map((part) => `(${part})`).join(' or ')})`
      : null;
  }
  if (!('field' in filter)) return null;
  const column = columns(filter.field);
  return column && testText(column.path, column.type, filter.test);
}

export interface SetAsked {
  /** The fields that are needed; only these travel. */
  readonly fields: readonly string[];
  readonly filter?: Filter | undefined;
  readonly top?: number | undefined;
  readonly count?: boolean;
}

/** The address of the records of a set. */
export function setAddress(
  base: string,
  request: SetRequest,
  { fields, filter, top, count }: SetAsked,
): string {
  const address = new URL(encodeURIComponent(name(request.table)), base.endsWith('/') ? base : `${base}/`);
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
