import type { Cell } from '#core/field/value.ts';
import type { Context } from '#core/flow/context.ts';
import { ask, columnLabel } from '#core/pane/ask.ts';
import type { TablePane } from '#core/pane/schema.ts';
import { ProblemError } from '#core/problem/problem.ts';
import { csvLine } from '#core/save/csv.ts';
import { scopeSegments } from '#core/words/scope.ts';
import { streamRecords } from '../records.ts';

export const saveFormats = ['csv', 'json', 'ndjson'] as const;
export type SaveFormat = (typeof saveFormats)[number];

const mediaTypes: Record<SaveFormat, string> = {
  csv: 'text/csv; charset=utf-8; header=present',
  json: 'application/json; charset=utf-8',
  ndjson: 'application/x-ndjson; charset=utf-8',
};

/**
 * Every record of a table in its scope, order and search, streamed: all of them, not the page; numbers with all their
 * digits. JSON also says what the records are of. Throws a {@link ProblemError} where there is nothing to save.
 */
export async function saveTable(
  pane: TablePane,
  context: Context,
  format: SaveFormat,
  signal: AbortSignal,
): Promise<Response> {
  const asked = ask(pane, context);
  const dataSet = context.dataSets.get(pane.dataSet);
  const doing = `saving “${pane.title}”`;
  if (asked.state !== 'table' || !dataSet)
    throw new ProblemError({
      code: 'bad-request',
      doing,
      why:
        asked.state === 'waiting' ? `it shows nothing until a ${asked.choose} is chosen` : 'it is no table',
      mend: 'Choose one, then save.',
    });
  const shown = context.scope.tables[pane.id]?.columns ?? pane.columns.map(({ field }) => field);
  const columns = pane.columns.filter(({ field, hidden }) => !hidden && shown.includes(field));
  const ordered = [...columns].sort((a, b) => shown.indexOf(a.field) - shown.indexOf(b.field));
  const fields = ordered.map((column) => ({
    label: columnLabel(dataSet, column),
    name: column.field,
    type: dataSet.fields.find(({ name }) => name === column.field)?.type ?? ('text' as const),
  }));
  const plan = {
    ...asked.plan,
    fields: fields.map(({ name }) => name),
    offset: 0,
    limit: Number.MAX_SAFE_INTEGER,
  };
  const object = (record: readonly Cell[]): string =>
    JSON.stringify(Object.fromEntries(fields.map(({ name }, at) => [name, record[at] ?? null])));
  const scope = scopeSegments(context)
    .map(({ text }) => text)
    .join('');
  let isFirst = true;
  const head: Record<SaveFormat, string> = {
    csv: csvLine(
      fields.map(({ label }) => label),
      fields.map(() => 'text'),
    ),
    json: `{"title":${JSON.stringify(pane.title)},"scope":${JSON.stringify(scope)},"savedAt":${JSON.stringify(context.clock.now.toISOString())},"records":[`,
    ndjson: '',
  };
  const write: Record<SaveFormat, (records: Cell[][]) => string> = {
    csv: (records) =>
      records
        .map((record) =>
          csvLine(
            record,
            fields.map(({ type }) => type),
          ),
        )
        .join(''),
    json: (records) =>
      records
        .map((record) => {
          const before = isFirst ? '\n' : ',\n';
          isFirst = false;
          return before + object(record);
        })
        .join(''),
    ndjson: (records) => records.map((record) => `${object(record)}\n`).join(''),
  };
  const encoder = new TextEncoder();
  const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
  const writer = writable.getWriter();
  const stop = new AbortController();
  signal.addEventListener('abort', () => stop.abort());
  writer.closed.catch(() => stop.abort());
  void (async () => {
    try {
      await writer.write(encoder.encode(head[format]));
      // Writing waits until what went before was taken, so a slow reader holds nothing in memory here.
      await streamRecords(plan, { doing, signal: stop.signal }, async (records) => {
        await writer.write(encoder.encode(write[format](records)));
      });
      if (format === 'json') await writer.write(encoder.encode('\n]}\n'));
      await writer.close();
    } catch (thrown) {
      // A download that ends early is broken off, so that nobody takes a part for the whole.
      await writer.abort(thrown).catch(() => undefined);
    }
  })();
  const name = `${pane.title.replace(/[^\p{L}\p{N} ,–-]+/gu, '').trim() || 'records'}.${format}`;
  return new Response(readable, {
    headers: {
      'Content-Type': mediaTypes[format],
      'Content-Disposition': `attachment; filename="records.${format}"; filename*=UTF-8''${encodeURIComponent(name)}`,
      'Cache-Control': 'no-store',
    },
  });
}
