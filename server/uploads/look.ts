import { randomUUID } from 'node:crypto';
import { likelyKeys } from '#core/dataset/identity.ts';
import { type Form, formFormat } from '#core/dataset/kept/forms.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { FileReading } from '#core/dataset/upload.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { stageFile } from '#engine/columnar/files.ts';
import type { FoundForm } from '#engine/columnar/forms.ts';
import { decimalShape, type WriterField } from '#engine/columnar/kept-field.ts';
import { filledIn, spansIn, uniqueIn } from '#engine/columnar/segment-facts.ts';
import type { Meanwhile, Rejected, StagedFile } from '#engine/columnar/staged.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { uploadConnection } from '#sources/upload/connection.ts';
import { cacheFolder } from '../kept/cache.ts';
import { heldBack } from '../kept/hold.ts';
import { storeAll, type WrittenVersion, writeBeside } from '../kept/write.ts';
import { addDataSet, findDataSet, type StoredDataSet } from '../store/data-sets.ts';
import { currentVersion, type KeptVersion, swapVersion } from '../store/kept.ts';
import { beginRefresh, endRefresh } from '../store/refreshes.ts';
import { builtInSource } from '../store/sources.ts';
import { dropUpload, uploadedFile, usualReading } from './files.ts';
import {
  type FirstGuess,
  type Forms,
  firstGuesses,
  firstLook,
  formsIn,
  justForms,
  quotedIn,
  textsOf,
  typeFor,
} from './guesses.ts';
import { type CellErrors, sheetAsCsv } from './sheet.ts';
import { rememberWritten, writtenBefore } from './written.ts';

/** A field that a file has, as all of its records show it. */
export interface SeenField {
  readonly name: string;
  readonly type: FieldType;
  readonly blank: number;
  /** How all of its texts are written, where no type reads that by itself. */
  readonly form?: FoundForm;
  /** It is filled and different in every record; looked at where its name may be that of what identifies one. */
  readonly unique?: true;
  /** Most of the field has this type; these texts do not, which is why it is text. */
  readonly nearly?: {
    readonly type: FieldType;
    readonly others: number;
    readonly examples: readonly string[];
  };
}

/** What a file holds, seen before it is accepted. */
export interface SeenFile {
  readonly reading: FileReading;
  /** The sheets of a spreadsheet. */
  readonly sheets?: readonly string[];
  /** The lists of records that a JSON document holds. */
  readonly lists?: StagedFile['lists'];
  /** Cells of a spreadsheet that hold an error, which are blank. */
  readonly errors?: CellErrors;
  readonly rejected: Rejected;
  readonly total: number;
  readonly fields: readonly SeenField[];
  readonly records: readonly (readonly (string | null)[])[];
  /** Milliseconds. */
  readonly took: number;
}

const shownRecords = 50;

/** Reads a whole uploaded file: its fields, their types over all records, and what could not be read. */
export async function lookAtFile(id: string, wish?: FileReading): Promise<SeenFile> {
  const started = performance.now();
  const look = async (writer: SegmentWriter, staged: Staged): Promise<SeenFile> => {
    const records = await writer.first(shownRecords, firstLook);
    const { guesses, forms } = await firstGuesses(writer, staged);
    const seen =
      (await writtenAsGuessed(id, writer, staged, guesses, forms)) ??
      (await lookedThrough(writer, staged, guesses, forms));
    return {
      reading: staged.reading,
      ...(staged.sheets ? { sheets: staged.sheets } : {}),
      ...(staged.errors?.count ? { errors: staged.errors } : {}),
      ...(staged.lists?.length ? { lists: staged.lists } : {}),
      ...seen,
      rejected: await staged.rejected(),
      records,
      took: performance.now() - started,
    };
  };
  return withStaged(id, wish, look, look);
}

/**
 * Writes the records with the types that the first of them have. When every record has them, the file is read only once
 * and what was written waits to be accepted; null when one has not.
 */
async function writtenAsGuessed(
  id: string,
  writer: SegmentWriter,
  { reading }: StagedFile,
  guesses: readonly FirstGuess[],
  forms: Forms,
): Promise<Pick<SeenFile, 'total' | 'fields'> | null> {
  // Texts that a form makes are texts whatever else comes, so that only all of them say whether it is theirs.
  const isUnsure = guesses.some(({ name, type, nearly }) => nearly || (type === 'text' && forms.has(name)));
  if (isUnsure) return null;
  const fields = guesses.map(({ name, type, looks: { wholeDigits, decimalDigits } }) => ({
    name,
    type,
    ...(type === 'decimal' ? decimalShape(wholeDigits, decimalDigits) : {}),
  }));
  try {
    await writer.type(fields, { strictly: true });
    const { segments, answer } = await writer.writeAndAsk(cacheFolder(), async (files) => {
      const { total, filled } = await filledIn(files, writer.names, writer);
      const isSure = guesses.every(({ name, looks: first }) => first.filled > 0 || filled.get(name) === 0);
      if (!isSure) return null;
      const mayBeKeys = mayIdentify(fields);
      return {
        total,
        filled,
        spans: await spansIn(files, fields, writer),
        unique: files.length > 0 ? await uniqueIn(files, mayBeKeys, writer) : await writer.unique(mayBeKeys),
      };
    });
    if (!answer) return null;
    const { total, filled, spans, unique } = answer;
    await rememberWritten(id, { reading, fields, forms: formsSaid(forms), segments, spans });
    return {
      total,
      fields: fields.map(({ name, type }) => ({
        name,
        type,
        blank: total - (filled.get(name) ?? 0),
        ...formOf(forms, name),
        ...uniqueOf(unique, name),
      })),
    };
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    return null;
  }
}

const mostMeasured = 6;
/** The fields that are measured for whether they identify a record: those with names like it, and the first. */
function mayIdentify(fields: readonly WriterField[]): WriterField[] {
  const names = new Set([fields[0]?.name, ...likelyKeys(fields, '')].slice(0, mostMeasured));
  return fields.filter(({ name }) => names.has(name));
}
const uniqueOf = (unique: ReadonlySet<string>, name: string): Pick<SeenField, 'unique'> =>
  unique.has(name) ? { unique: true } : {};

const formOf = (forms: Forms, name: string): Pick<SeenField, 'form'> => {
  const form = forms.get(name);
  return form ? { form } : {};
};

/** The forms of fields as a data set has them. */
const formsSaid = (forms: Forms): Record<string, Form> => Object.fromEntries(justForms(forms));

/** Types from the texts of all records, and the forms that all of them are written in. */
async function lookedThrough(
  writer: SegmentWriter,
  staged: StagedFile,
  guesses: readonly FirstGuess[],
  first: Forms,
): Promise<Pick<SeenFile, 'total' | 'fields'>> {
  const quoted = await quotedIn(staged, 'all');
  await writer.form(new Map());
  let forms = await formsIn(writer, quoted, [...first.keys()]);
  const looked = async () => {
    await writer.form(justForms(forms));
    const { total, looks } = await writer.looks();
    const typed = [...looks].map(([name, each]) => ({
      name,
      looks: each,
      ...typeFor(name, each, staged.types, quoted),
    }));
    return { total, typed };
  };
  let { total, typed } = await looked();
  // What was blank in the first records may be written in a form as well.
  const wasBlank = new Set(guesses.filter(({ looks }) => looks.filled === 0).map(({ name }) => name));
  const late = await formsIn(
    writer,
    quoted,
    textsOf(typed, staged).filter((name) => wasBlank.has(name)),
  );
  if (late.size > 0) {
    forms = new Map([...forms, ...late]);
    ({ total, typed } = await looked());
  }
  const unique = await writer.unique(mayIdentify(typed));
  const fields: SeenField[] = [];
  for (const { name, looks: each, type, nearly } of typed) {
    const blank = total - each.filled;
    const about = { name, type, blank, ...formOf(forms, name), ...uniqueOf(unique, name) };
    if (!nearly) fields.push(about);
    else {
      const { examples } = await writer.misfits(name, nearly.type);
      fields.push({ ...about, nearly: { ...nearly, examples } });
    }
  }
  return { total, fields };
}

type Use<T> = (writer: SegmentWriter, staged: Staged) => Promise<T>;

/** `early` is done with what the first records have, and again in the rare case that others have more. */
async function withStaged<T>(
  id: string,
  wish: FileReading | undefined,
  use: Use<T>,
  early?: Use<T>,
): Promise<T> {
  const reading = wish ?? (await usualReading(id));
  const writer = await SegmentWriter.open(cacheFolder());
  try {
    const staged = await stagedAs(id, writer, reading, early && ((first) => early(writer, first)));
    return staged.early ?? (await use(writer, staged));
  } finally {
    writer.close();
  }
}

/** A staged file, and for a spreadsheet the sheets it has and the cells that hold errors. */
type Staged = StagedFile & { readonly sheets?: readonly string[]; readonly errors?: CellErrors };

async function stagedAs<T>(
  id: string,
  writer: SegmentWriter,
  reading: FileReading,
  meanwhile?: Meanwhile<T>,
): Promise<Staged & { readonly early?: T }> {
  if (reading.kind !== 'sheet') return stageFile(writer, uploadedFile(id), reading, meanwhile);
  const csv = `${uploadedFile(id)}.sheet`;
  const { sheets, errors, reading: read } = await sheetAsCsv(uploadedFile(id), reading, csv);
  const staged = await stageFile(writer, csv, {
    kind: 'delimited',
    delimiter: ',',
    quote: '"',
    header: true,
    encoding: 'utf-8',
  });
  return { ...staged, reading: read, sheets, errors };
}

export interface Acceptance {
  readonly file: string;
  readonly reading: FileReading;
  readonly fields: readonly { readonly name: string; readonly type: FieldType }[];
  /** Fields whose texts are read by a form. */
  readonly forms?: Record<string, Form> | undefined;
}

const accepting = 'accepting the file';
const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: accepting, why, mend });

/**
 * Stores the records of a file as segments, beside those there are, with the types said. Nothing is blanked: what does
 * not fit is refused.
 */
async function segmentsOf(
  { file, reading, fields, forms = {} }: Acceptance,
  before: KeptVersion | null,
): Promise<WrittenVersion> {
  const written = before === null ? await writtenBefore(file, { reading, fields, forms }) : null;
  if (written) {
    await storeAll(written.segments);
    return { fields: written.fields, older: [], fresh: written.segments, spans: written.spans };
  }
  return withStaged(file, reading, async (writer) => {
    const known = new Set(writer.names);
    const missing = fields.find(({ name }) => !known.has(name));
    if (missing)
      throw refused(
        `it has no field “${missing.name}”`,
        'Give a file with the same fields, or make another data set.',
      );
    await writer.form(new Map(Object.entries(forms)));
    return writeBeside(writer, fields, { before, doing: accepting });
  });
}

/** Makes a data set of a file, with its records. The id comes with the form, so that a form sent twice makes one. */
export async function acceptNew(
  acceptance: Acceptance & {
    id: string;
    name: string;
    noun: DataSet['noun'];
    by: string | null;
    /** The signs of money that fields have. */
    units?: Record<string, string> | undefined;
    /** What identifies a record, and what names it. */
    key?: string | undefined;
    title?: string | undefined;
  },
): Promise<void> {
  if (await findDataSet(acceptance.id)) return;
  const written = await segmentsOf(acceptance, null);
  const source = await builtInSource(uploadConnection, acceptance.by);
  const { forms = {}, units = {} } = acceptance;
  const fields = acceptance.fields.map(({ name, type }): Field => {
    const [form, unit] = [forms[name], units[name]];
    const format = form && formFormat(form);
    return { name, type, ...(unit ? { unit } : {}), ...(format ? { format } : {}) };
  });
  const definition: DataSet = {
    version: 2,
    source,
    request: { kind: 'upload', columns: [], ...(Object.keys(forms).length > 0 ? { forms } : {}) },
    inputs: [],
    fields,
    ...(acceptance.key ? { key: acceptance.key } : {}),
    ...(acceptance.title ? { title: acceptance.title } : {}),
    noun: acceptance.noun,
    measures: [{ name: 'count', label: acceptance.noun.many, calculation: { kind: 'count' } }],
    keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
  };
  await addDataSet({ id: acceptance.id, name: acceptance.name, definition, by: acceptance.by });
  await swap({ id: acceptance.id, name: acceptance.name, definition }, written, null);
  // Nobody waits for that.
  void dropUpload(acceptance.file);
}

async function swap(
  stored: Pick<StoredDataSet, 'id' | 'name' | 'definition'>,
  { fields, older, fresh: written, spans }: WrittenVersion,
  before: string | null,
): Promise<void> {
  // A file whose records are there already is not added to them again.
  const fresh = written.filter(({ hash }) => !older.some((each) => each.hash === hash));
  const segments = [...older, ...fresh];
  const next = { id: randomUUID(), before, trueAt: new Date(), fields, spans, segments };
  await heldBack(stored, { ...next, version: next.id });
  await swapVersion({ ...next, dataSetId: stored.id });
  const refreshId = randomUUID();
  await beginRefresh(refreshId, stored.id);
  const count = (some: readonly { records: number }[]): number =>
    some.reduce((sum, { records }) => sum + records, 0);
  await endRefresh(refreshId, { state: 'done', fetched: count(fresh), kept: count(next.segments) });
}

/** Gives a data set the records of a later file, in place of those it has or beside them. */
export async function acceptLater(
  later: Pick<Acceptance, 'file' | 'reading'> & { into: string; how: 'replace' | 'add' },
): Promise<void> {
  const stored = await findDataSet(later.into);
  if (stored?.definition.request.kind !== 'upload')
    throw refused('the data set is not made of files', 'Make a new one of the file.');
  const fields = startOf(stored.definition).map(({ name, type }) => ({ name, type }));
  const before = await currentVersion(later.into);
  const written = await segmentsOf(
    { ...later, fields, forms: stored.definition.request.forms },
    later.how === 'add' ? before : null,
  );
  await swap(stored, written, before?.id ?? null);
  void dropUpload(later.file);
}
