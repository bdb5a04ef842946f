import { parse } from 'yaml';
import { z } from 'zod';
import type { HttpCall } from './schema.ts';

/** An operation of a service that reads, as a call with its parameters as inputs. */
export interface Operation {
  readonly call: HttpCall;
  readonly summary: string;
}

export type ReadOpenApi = { ok: true; operations: Operation[] } | { ok: false; why: string };

const Parameter = z.object({ name: z.string(), in: z.string() });
const Described = z.object({
  summary: z.string().optional(),
  parameters: z.array(z.unknown()).optional(),
});
const Document = z.object({
  openapi: z.string().regex(/^3\./, 'it is not of version 3'),
  paths: z.record(z.string(), z.record(z.string(), z.unknown()).nullable()),
  components: z
    .object({
      parameters: z.record(z.string(), z.unknown()).optional(),
      schemas: z.record(z.string(), z.unknown()).optional(),
    })
    .optional(),
});
export type OpenApiDocument = z.infer<typeof Document>;

const largest = 5_000_000;
const inputName = (name: string): string => name.replace(/[^A-Za-z0-9_]/g, '_').replace(/^(\d)/, '_$1');

/** An OpenAPI 3 document, in JSON or YAML, or why a text is none. */
export function openApiDocument(
  text: string,
): { readonly ok: true; readonly document: OpenApiDocument } | { readonly ok: false; readonly why: string } {
  if (text.length > largest) return { ok: false, why: 'It is larger than 5 MB.' };
  let raw: unknown;
  try {
    // YAML holds JSON; aliases are bounded, so that none expands without end.
    raw = parse(text, { maxAliasCount: 100 });
  } catch (thrown) {
    return {
      ok: false,
      why: `It is neither JSON nor YAML: ${thrown instanceof Error ? (thrown.message.split('\n')[0] ?? '') : thrown}`,
    };
  }
  const read = Document.safeParse(raw);
  return read.success
    ? { ok: true, document: read.data }
    : {
        ok: false,
        why: `It is not an OpenAPI 3 document: ${read.error.issues[0]?.message ?? 'it has no paths'}.`,
      };
}

/**
 * The operations of an OpenAPI 3 document, JSON or YAML, that can be asked for records: GET, and POST for searches. Query
 * parameters become inputs that may stay unset.
 */
export function readOpenApi(text: string): ReadOpenApi {
  const read = openApiDocument(text);
  if (!read.ok) return read;
  const { paths, components } = read.document;
  const resolve = (parameter: unknown): unknown => {
    const reference = (parameter as { $ref?: unknown } | null)?.$ref;
    return typeof reference === 'string'
      ? components?.parameters?.[reference.replace('#/components/parameters/', '')]
      : parameter;
  };
  const operations = Object.entries(paths).flatMap(([path, item]) =>
    (['get', 'post'] as const).flatMap((method): Operation[] => {
      const described = Described.safeParse(item?.[method]);
      if (!described.success) return [];
      const shared = Array.isArray(item?.parameters) ? (item.parameters as unknown[]) : [];
      const parameters = [...shared, ...(described.data.parameters ?? [])].flatMap((each) => {
        const parameter = Parameter.safeParse(resolve(each));
        return parameter.success ? [parameter.data] : [];
      });
      return [
        {
          call: {
            method: method === 'get' ? 'GET' : 'POST',
            path: path.replace(/\{([^{}]+)\}/g, (_, name: string) => `{${inputName(name)}}`),
            query: parameters
              .filter((parameter) => parameter.in === 'query')
              .map(({ name }) => ({ name, value: `{${inputName(name)}}` })),
            headers: [],
          },
          summary: described.data.summary ?? '',
        },
      ];
    }),
  );
  return operations.length > 0
    ? { ok: true, operations }
    : { ok: false, why: 'It describes nothing that could be asked for.' };
}
