import { freeName } from '#core/value/field/free-name.ts';

/** A member of a record as a column: its JSON Pointer (RFC 6901) and the name it gives the field. */
export interface FoundMember {
  readonly column: string;
  readonly name: string;
}

const mostDepth = 4;
const mostMembers = 500;

/** Whether a value of JSON is an object, rather than a list or a bare value. */
export const isObject = (value: unknown): value is Record<string, unknown> =>
  value !== null && typeof value === 'object' && !Array.isArray(value);

const escaped = (name: string): string => name.replaceAll('~', '~0').replaceAll('/', '~1');

/**
 * The members of records, those of objects inside them too ("station.name"); lists stay whole, as JSON. In the order in
 * which they are met.
 */
export function findMembers(records: readonly unknown[]): FoundMember[] {
  const columns = new Map<string, string[]>();
  const hasObject = new Set<string>();
  const hasOther = new Set<string>();
  const walk = (value: unknown, column: string, names: readonly string[]): void => {
    if (columns.size >= mostMembers) return;
    if (
      isObject(value) &&
      names.length <= mostDepth &&
      (names.length === 0 || Object.keys(value).length > 0)
    ) {
      hasObject.add(column);
      for (const [name, each] of Object.entries(value))
        walk(each, `${column}/${escaped(name)}`, [...names, name]);
    } else if (names.length > 0) {
      if (value !== null) hasOther.add(column);
      if (!columns.has(column)) columns.set(column, [...names]);
    }
  };
  for (const record of records) walk(record, '', []);
  const used = new Set<string>();
  return (
    [...columns]
      // Where some records have an object and others nothing, its members are the columns.
      .filter(([column]) => !hasObject.has(column) || hasOther.has(column))
      .map(([column, names]) => {
        const wanted = names.join('_').slice(0, 180) || 'unnamed';
        const name = freeName(wanted, (each) => used.has(each.toLowerCase()));
        used.add(name.toLowerCase());
        return { column, name };
      })
  );
}

/** The value at a pointer of a record; null where there is none. */
function memberAt(record: unknown, pointer: string): unknown {
  let value = record;
  for (const part of pointer.split('/').slice(1)) {
    if (!isObject(value)) return null;
    const name = part.replaceAll('~1', '/').replaceAll('~0', '~');
    value = Object.hasOwn(value, name) ? value[name] : undefined;
  }
  return value ?? null;
}

/** The value at a pointer of a record: text as it stands, what has structure as JSON, null where there is none. */
export function memberText(record: unknown, pointer: string): string | null {
  const value = memberAt(record, pointer);
  if (value === null) return null;
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

/** Whether records write a member as a text wherever they have it: what looks like a number there is none, such as a version 1.2. */
export function isWrittenAsText(records: readonly unknown[], pointer: string): boolean {
  const values = records.map((record) => memberAt(record, pointer)).filter((value) => value !== null);
  return values.length > 0 && values.every((value) => typeof value === 'string');
}

/** A record's texts in the order of columns. */
export const memberTexts = (record: unknown, columns: readonly string[]): (string | null)[] =>
  columns.map((column) => memberText(record, column));
