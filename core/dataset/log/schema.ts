import { z } from 'zod';

/** How the moment in a text is written: ISO 8601, as web servers write it, with UTC or GMT behind it, without a zone (taken as UTC), or since 1970. */
export const timeFormats = ['iso', 'clf', 'utc', 'local', 'seconds', 'milliseconds'] as const;
export type TimeFormat = (typeof timeFormats)[number];

/** How a line of a log becomes a record. */
export const LineFormat = z.discriminatedUnion('kind', [
  /** One JSON object a line. */
  z.object({ kind: z.literal('json') }),
  /** `key=value key="another value"`. */
  z.object({ kind: z.literal('pairs') }),
  /** Common Log Format of web servers. */
  z.object({ kind: z.literal('common') }),
  /** Combined Log Format: common, with referrer and agent. */
  z.object({ kind: z.literal('combined') }),
  /** RFC 5424. */
  z.object({ kind: z.literal('syslog') }),
  z.object({
    kind: z.literal('delimited'),
    delimiter: z.string().min(1).max(4),
    names: z.array(z.string().min(1).max(200)).max(500),
  }),
  /** A regular expression with named groups, by RE2's rules. */
  z.object({ kind: z.literal('pattern'), pattern: z.string().min(1).max(5000) }),
]);
export type LineFormat = z.infer<typeof LineFormat>;
export type LineKind = LineFormat['kind'];
