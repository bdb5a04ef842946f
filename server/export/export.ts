import { type Asker, everybody } from '#core/ask/condition/resolve.ts';
import { ask } from '#core/dashboard/flow/ask.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { readsOf } from '#core/dashboard/flow/reads-of.ts';
import { notNarrowedWords } from '#core/dashboard/flow/words/not-narrowed.ts';
import { scopeSegments } from '#core/dashboard/flow/words/scope.ts';
import type { ListColumn } from '#core/dashboard/pane/kind.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { relationWith, unsetInputs } from '#core/plan/relation.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ExportFormatName } from '#core/words/export-formats.ts';
import { type BehindView, behindPlan, type CellAddress } from '../panes/drill.ts';
import { runPane } from '../panes/run.ts';
import { streamRecords } from '../records/run.ts';
import type { Sheet, Stream } from './format.ts';
import { formats } from './formats.ts';
import { writtenFile } from './written-file.ts';

const refused = (doing: string, why: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing, why, mend: 'Choose one, then download.' });

/** Every record that a pane lists, in its scope, order and search: all of them, not the page. Throws a {@link ProblemError}. */
export function exportList(
  pane: Pane,
  context: Context,
  format: ExportFormatName,
  signal: AbortSignal,
): Promise<Response> {
  const question = ask(pane, context);
  if (question.state === 'waiting' || !question.list)
    throw refused(
      `downloading “${pane.title}”`,
      question.state === 'waiting'
        ? `it shows nothing until a ${question.choose} is chosen`
        : 'it lists no records',
    );
  return exported(
    {
      title: pane.title,
      scope: scopeSentence(pane.id, context),
      at: context.clock.now,
      zone: context.clock.zone,
      fields: question.list.columns,
      plan: question.list.plan,
    },
    format,
    signal,
  );
}

/** A pane as it looks, as a spreadsheet. Throws a {@link ProblemError}. */
export async function exportPage(pane: Pane, context: Context, signal: AbortSignal): Promise<Response> {
  const doing = `downloading “${pane.title}”`;
  const result = await runPane({ pane, context, signal });
  if (result.state === 'failed') throw new ProblemError(result.problem);
  const question = ask(pane, context);
  if (result.state !== 'ready' || question.state !== 'asking' || !question.page)
    throw refused(doing, 'it is not a page of numbers');
  const [ending, format] = Object.entries(formats).find(([, each]) => each.writePage) ?? [];
  if (!ending || !format?.writePage) throw new TypeError('no format takes a page of numbers');
  const bytes = await format.writePage(question.page(result.body), {
    title: pane.title,
    scope: scopeSentence(pane.id, context),
    at: context.clock.now,
    zone: context.clock.zone,
  });
  return new Response(bytes, { headers: fileHeaders(pane.title, ending, format.media) });
}

/** The records behind a number, all of them, with the fields chosen. Throws a {@link ProblemError}. */
export function exportBehind(
  address: CellAddress,
  { view, shown }: { view: BehindView; shown: readonly string[] },
  context: Context,
  format: ExportFormatName,
  signal: AbortSignal,
): Promise<Response> {
  const { pane, dataSet, plan } = behindPlan(address, view, context);
  const chosen = shown.filter((name) => plan.fields.includes(name));
  return exported(
    {
      title: pane.title,
      scope: scopeSentence(pane.id, context),
      at: context.clock.now,
      zone: context.clock.zone,
      fields: (chosen.length > 0 ? chosen : plan.fields).flatMap((name) => {
        const field = dataSet.fields.find((each) => each.name === name);
        return field ? [sheetColumn(field)] : [];
      }),
      plan,
    },
    format,
    signal,
  );
}

const sheetColumn = (field: Field): ListColumn => ({
  label: labelOf(field),
  name: field.name,
  type: field.type,
  bands: field.bands,
});

/** What a file says of the records in it: what the page shows, and what of that does not narrow the pane. */
function scopeSentence(pane: string, context: Context): string {
  const sentence = scopeSegments(context)
    .map(({ text }) => text)
    .join('');
  const reads = readsOf(context)[pane];
  const left = reads ? notNarrowedWords(reads, context) : '';
  return left === '' ? sentence : `${sentence} (${left})`;
}

/** The records of a data set that somebody may see, with all its fields, those that readers are not shown too. Throws a {@link ProblemError}. */
export function exportDataSet(
  { id, name, definition }: { id: string; name: string; definition: DataSet },
  world: World,
  {
    zone,
    now,
    format,
    signal,
    person = everybody,
  }: { zone: string; now: Date; format: ExportFormatName; signal: AbortSignal; person?: Asker },
): Promise<Response> {
  const needed = definition.inputs.find(({ required }) => required);
  if (needed) throw refused(`downloading “${name}”`, `its records depend on ${needed.label ?? needed.name}`);
  const { fields, key } = definition;
  return exported(
    {
      title: name,
      scope: null,
      at: now,
      zone,
      fields: fields.map(sheetColumn),
      plan: {
        kind: 'records',
        from: relationWith(definition, id, unsetInputs(definition), {
          world,
          clock: { now, zone },
          person,
        }),
        where: { all: [] },
        zone,
        fields: [],
        order: key === undefined ? [] : [{ by: key }],
        offset: 0,
        limit: 0,
      },
    },
    format,
    signal,
  );
}

/** The records as a file of a format, numbers with all their digits. */
async function exported(sheet: Sheet, format: ExportFormatName, signal: AbortSignal): Promise<Response> {
  const plan: RecordsPlan = {
    ...sheet.plan,
    fields: sheet.fields.map(({ name }) => name),
    offset: 0,
    limit: Number.MAX_SAFE_INTEGER,
  };
  const doing = `downloading “${sheet.title}”`;
  const stream: Stream = (take) => streamRecords(plan, { doing, signal }, take);
  const { media, write } = formats[format];
  // Whole on disk before it is sent: a reader who is slow, or gone, holds no connection of a source.
  const body = await writtenFile(format, (file) => write(file, sheet, stream));
  return new Response(body, { headers: fileHeaders(sheet.title, format, media) });
}

function fileHeaders(title: string, ending: string, media: string): Record<string, string> {
  const name = `${title.replace(/[^\p{L}\p{N} ,–-]+/gu, '').trim() || 'records'}.${ending}`;
  return {
    'Content-Type': media,
    'Content-Disposition': `attachment; filename="records.${ending}"; filename*=UTF-8''${encodeURIComponent(name)}`,
    'Cache-Control': 'no-store',
  };
}
