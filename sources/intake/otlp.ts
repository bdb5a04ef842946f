import { LosslessNumber, stringify } from 'lossless-json';
import { z } from 'zod';

/* OTLP/HTTP logs in their JSON encoding (OpenTelemetry Protocol 1.x; field names in lowerCamelCase, 64-bit numbers as strings). */

type Value = string | number | boolean | null | LosslessNumber | Value[] | { [name: string]: Value };

/** A 64-bit number, which the protocol writes as a text, with all its digits. */
const wholeNumber = (text: string): Value => (/^-?\d+$/.test(text) ? new LosslessNumber(text) : text);

const anyValue: z.ZodType<Value> = z.lazy(() =>
  z
    .object({
      stringValue: z.string().optional(),
      boolValue: z.boolean().optional(),
      intValue: z.union([z.string(), z.number()]).optional(),
      doubleValue: z.union([z.number(), z.string()]).optional(),
      bytesValue: z.string().optional(),
      arrayValue: z.object({ values: z.array(anyValue).default([]) }).optional(),
      kvlistValue: z.object({ values: attributes }).optional(),
    })
    .transform(
      (any): Value =>
        any.stringValue ??
        any.boolValue ??
        (any.intValue === undefined ? undefined : wholeNumber(String(any.intValue))) ??
        any.doubleValue ??
        any.bytesValue ??
        any.arrayValue?.values ??
        any.kvlistValue?.values ??
        null,
    ),
);
const attributes: z.ZodType<Record<string, Value>> = z.lazy(() =>
  z
    .array(z.object({ key: z.string(), value: anyValue.optional() }))
    .transform((list) => Object.fromEntries(list.map(({ key, value }) => [key, value ?? null]))),
);
const nanos = z.union([z.string().regex(/^\d{1,20}$/), z.number().int().nonnegative()]).transform(String);

const LogRecord = z.object({
  timeUnixNano: nanos.optional(),
  observedTimeUnixNano: nanos.optional(),
  severityNumber: z.number().int().optional(),
  severityText: z.string().optional(),
  body: anyValue.optional(),
  attributes: attributes.optional(),
  traceId: z.string().optional(),
  spanId: z.string().optional(),
  eventName: z.string().optional(),
});
const Envelope = z.object({
  resourceLogs: z
    .array(
      z.object({
        resource: z.object({ attributes: attributes.optional() }).optional(),
        scopeLogs: z
          .array(
            z.object({
              scope: z.object({ name: z.string().optional() }).optional(),
              logRecords: z.array(z.unknown()).default([]),
            }),
          )
          .default([]),
      }),
    )
    .default([]),
});

/** Nanoseconds since 1970 as ISO 8601 with microseconds; null for nothing or zero, which is OTLP's "unknown". */
function momentOf(text: string | undefined): string | null {
  if (text === undefined || /^0*$/.test(text)) return null;
  const micros = BigInt(text) / 1000n;
  const millis = Number(micros / 1000n);
  if (millis > 8.64e15) return null;
  const whole = new Date(millis).toISOString().slice(0, 19);
  return `${whole}.${String(micros % 1_000_000n).padStart(6, '0')}Z`;
}

const asJson = (record: object): string => stringify(record) ?? '{}';

export interface TakenIn {
  /** One JSON object each. */
  readonly records: readonly string[];
  readonly rejected: { readonly count: number; readonly why: string };
}

/** The records of an OTLP request, one object each; those that are no log records are counted. Null for what is no such request. */
export function readOtlp(body: unknown): TakenIn | null {
  const envelope = Envelope.safeParse(body);
  if (!envelope.success) return null;
  const records: string[] = [];
  let [count, why] = [0, ''];
  for (const { resource, scopeLogs } of envelope.data.resourceLogs)
    for (const { scope, logRecords } of scopeLogs)
      for (const raw of logRecords) {
        const read = LogRecord.safeParse(raw);
        if (!read.success) {
          count += 1;
          why ||= z.prettifyError(read.error).slice(0, 300);
          continue;
        }
        const { timeUnixNano, observedTimeUnixNano, ...log } = read.data;
        records.push(
          asJson({
            time: momentOf(timeUnixNano) ?? momentOf(observedTimeUnixNano),
            severity: log.severityText ?? null,
            severity_number: log.severityNumber ?? null,
            event: log.eventName || null,
            body: log.body ?? null,
            attributes: log.attributes ?? {},
            resource: resource?.attributes ?? {},
            scope: scope?.name || null,
            trace_id: log.traceId || null,
            span_id: log.spanId || null,
          }),
        );
      }
  return { records, rejected: { count, why } };
}

/** The records of NDJSON: a line that is no JSON object is kept as it stands, so that it can be looked at. */
export function readLines(text: string): TakenIn {
  const records: string[] = [];
  let count = 0;
  for (const line of text.split('\n')) {
    const bare = line.replaceAll('\0', ' ').trim();
    if (bare === '') continue;
    records.push(bare);
    if (!isObject(bare)) count += 1;
  }
  return { records, rejected: { count, why: count > 0 ? 'some lines are not JSON objects' : '' } };
}

function isObject(text: string): boolean {
  try {
    const value: unknown = JSON.parse(text);
    return value !== null && typeof value === 'object' && !Array.isArray(value);
  } catch {
    return false;
  }
}
