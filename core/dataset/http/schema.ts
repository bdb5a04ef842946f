import { z } from 'zod';

const named = z.object({
  name: z.string().min(1).max(200),
  /** An RFC 6570 template; without its values the entry is left out. */
  value: z.string().max(4000),
});

/** One call of a service: the path, query, headers and body hold inputs as `{name}`. */
export const HttpCall = z.object({
  method: z.enum(['GET', 'POST']),
  /** After the source's base address; an RFC 6570 template. */
  path: z.string().max(4000),
  query: z.array(named).max(100),
  headers: z.array(named).max(50),
  /** JSON text; a string in it that is exactly `{name}` stands for the input's value. */
  body: z.string().max(200_000).optional(),
});
export type HttpCall = z.infer<typeof HttpCall>;

/** A call of nothing but a path. */
export const plainCall = (path: string): HttpCall => ({ method: 'GET', path, query: [], headers: [] });

export const answerFormats = ['auto', 'json', 'ndjson', 'csv'] as const;
export const AnswerFormat = z.enum(answerFormats);
export type AnswerFormat = z.infer<typeof AnswerFormat>;

const parameter = z.string().min(1).max(200);
const path = z.string().min(1).max(1000);
const size = z.object({ parameter, count: z.int().min(1).max(100_000) });

/** How the rest of the records is asked for. */
export const Paging = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  /** Only the first page, though the answer may say that there are more. */
  z.object({ kind: z.literal('first') }),
  /** By the number of the page. */
  z.object({ kind: z.literal('page'), parameter, from: z.int().min(0).max(1), size: size.optional() }),
  /** By how many records to pass over. */
  z.object({ kind: z.literal('offset'), parameter, size }),
  /** By a cursor that stands in each answer (JSONPath, RFC 9535), sent as a query parameter or, as a JSON pointer, in the body. */
  z.object({ kind: z.literal('cursor'), at: path, parameter }),
  /** By the `next` link in the answer's Link header (RFC 8288). */
  z.object({ kind: z.literal('link') }),
  /** By the next address, which stands in each answer. */
  z.object({ kind: z.literal('next'), at: path }),
]);
export type Paging = z.infer<typeof Paging>;

/** How a service knows who asks. The secret part is kept apart, encrypted. */
export const Auth = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('basic'), user: z.string().min(1, 'a user is needed').max(200) }),
  z.object({
    kind: z.literal('key'),
    in: z.enum(['header', 'query']),
    name: z.string().min(1, 'the key needs the name it is sent under').max(200),
  }),
  z.object({ kind: z.literal('bearer') }),
  /** RFC 6749, section 4.4. */
  z.object({
    kind: z.literal('client'),
    tokenAddress: z.url('the address that gives tokens is needed'),
    client: z.string().min(1, 'the name of the client is needed').max(200),
    scope: z.string().max(500).optional(),
  }),
]);
export type Auth = z.infer<typeof Auth>;
