import { z } from 'zod';
import type { ChangeCall, ChangeCalls } from '../change/schema.ts';
import type { Column } from '../schema.ts';
import { type OpenApiDocument, openApiDocument } from './openapi.ts';

/* How a service is told of changes of its records, as its OpenAPI 3 document describes that. */

/** The records that are changed: where they are asked for, and what they have. */
export interface ChangedRecords {
  /** After the source's own address. */
  readonly path: string;
  /** The column that identifies one. */
  readonly key: string;
  readonly columns: readonly Pick<Column, 'column' | 'name'>[];
}

export type ReadCalls =
  | { readonly ok: true; readonly calls: ChangeCalls }
  | { readonly ok: false; readonly why: string };

const Content = z.object({ content: z.record(z.string(), z.object({ schema: z.unknown() })) });
const Operation = z.object({
  requestBody: z.unknown().optional(),
  responses: z.record(z.string(), z.unknown()).optional(),
});
const Described = z.object({
  $ref: z.string().optional(),
  properties: z.record(z.string(), z.unknown()).optional(),
  allOf: z.array(z.unknown()).optional(),
});

/** References of references are followed no further than this. */
const deepest = 8;

const segmentsOf = (path: string): string[] =>
  path
    .replace(/\?.*$/, '')
    .split('/')
    .filter((part) => part !== '')
    .map((part) => (/^\{[^{}]+\}$/.test(part) ? '{}' : part.toLowerCase()));

/** Whether one path is the other, where either may begin with what the other's address has already. */
const isSamePath = (one: readonly string[], other: readonly string[]): boolean => {
  const [longer, shorter] = one.length >= other.length ? [one, other] : [other, one];
  return (
    shorter.length > 0 && shorter.every((part, at) => part === longer[longer.length - shorter.length + at])
  );
};

/** The members of a JSON object that a schema describes, with their schemas. */
function membersOf(schema: unknown, document: OpenApiDocument, depth = 0): Record<string, unknown> {
  const read = Described.safeParse(schema);
  if (!read.success || depth > deepest) return {};
  const { $ref, properties = {}, allOf = [] } = read.data;
  const meant = $ref?.replace('#/components/schemas/', '');
  return {
    ...(meant === undefined ? {} : membersOf(document.components?.schemas?.[meant], document, depth + 1)),
    ...Object.assign({}, ...allOf.map((part) => membersOf(part, document, depth + 1))),
    ...properties,
  };
}

const jsonIn = (described: unknown): unknown => {
  const read = Content.safeParse(described);
  if (!read.success) return undefined;
  return Object.entries(read.data.content).find(([type]) => /\bjson\b/i.test(type))?.[1].schema;
};

/** The columns of records by the member that each is, of those that stand at the top of one. */
const byMember = ({ columns }: ChangedRecords): ReadonlyMap<string, string> =>
  new Map(
    columns.flatMap(({ column, name }) => {
      const [, member] = /^\/([^/]+)$/.exec(column) ?? [];
      return member === undefined ? [] : [[member.replaceAll('~1', '/').replaceAll('~0', '~'), name]];
    }),
  );

/** The member in which a record stands, where it stands in one of its own; null where it is the object itself. */
function wrapperOf(schema: unknown, document: OpenApiDocument, of: ChangedRecords): string | null {
  const known = byMember(of);
  const members = membersOf(schema, document);
  if (Object.keys(members).some((name) => known.has(name))) return null;
  const [found] = Object.entries(members).find(([, inner]) =>
    Object.keys(membersOf(inner, document)).some((name) => known.has(name)),
  ) ?? [null];
  return found;
}

/**
 * The body of a call: absent where the members that are set are what is sent. One that replaces a record holds all that is known of it, and
 * one that the service wants within a member stands there.
 */
function bodyOf(
  method: ChangeCall['method'],
  schema: unknown,
  document: OpenApiDocument,
  of: ChangedRecords,
): string | undefined {
  const wrapper = wrapperOf(schema, document, of);
  if (wrapper === null && method !== 'PUT') return undefined;
  const members = membersOf(schema, document);
  const inner = wrapper === null ? members : membersOf(members[wrapper], document);
  const known = byMember(of);
  const record = Object.fromEntries(
    Object.keys(inner).flatMap((member) => {
      const name = known.get(member);
      return name === undefined ? [] : [[member, `{${name}}`]];
    }),
  );
  if (Object.keys(record).length === 0) return undefined;
  return JSON.stringify(wrapper === null ? record : { [wrapper]: record });
}

/** By which calls records are changed, added and removed, of what an OpenAPI 3 document describes; or why it says none. */
export function describedCalls(text: string, of: ChangedRecords): ReadCalls {
  const read = openApiDocument(text);
  if (!read.ok) return read;
  const { document } = read;
  const all = segmentsOf(of.path);
  const paths = Object.entries(document.paths).map(([path, item]) => ({
    parts: segmentsOf(path),
    item: item ?? {},
  }));
  const list = paths.find(({ parts }) => isSamePath(parts, all));
  const single = paths.find(({ parts }) => parts.at(-1) === '{}' && isSamePath(parts.slice(0, -1), all));
  const one = `${of.path}/{${of.key}}`;
  const call = (item: Record<string, unknown> | undefined, method: ChangeCall['method'], path: string) => {
    const operation = Operation.safeParse(item?.[method.toLowerCase()]);
    if (!operation.success) return undefined;
    const body =
      method === 'DELETE' ? undefined : bodyOf(method, jsonIn(operation.data.requestBody), document, of);
    return { method, path, ...(body === undefined ? {} : { body }) };
  };
  const update = call(single?.item, 'PATCH', one) ?? call(single?.item, 'PUT', one);
  const remove = call(single?.item, 'DELETE', one);
  const insert = call(list?.item, 'POST', of.path);
  if (!update && !remove && !insert)
    return {
      ok: false,
      why: `It describes no call that changes what stands at “${of.path}”.`,
    };
  const responses = Operation.safeParse(single?.item.get).data?.responses ?? {};
  const answer = Object.entries(responses).find(([status]) => /^2/.test(status))?.[1];
  const wrapper = wrapperOf(jsonIn(answer), document, of);
  return {
    ok: true,
    calls: {
      read: { path: one, record: wrapper === null ? '$' : `$['${wrapper.replace(/['\\]/g, '\\$&')}']` },
      ...(update ? { update } : {}),
      ...(insert ? { insert } : {}),
      ...(remove ? { remove } : {}),
    },
  };
}
