import { fieldsOf } from '#core/condition/resolve.ts';
import type { Condition } from '#core/condition/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import { isNumeric, isTemporal, labelOf, parseValue } from '#core/field/value.ts';
import type { Calculation } from '#core/measure/schema.ts';
import { calculationFields, calculationType, measureFields } from '#core/plan/plan.ts';
import { made, readsOf } from './making.ts';
import type { Ref, Step, StepKindName, StepOf } from './schema.ts';

/** The data sets that steps may refer to, by id. */
export type World = ReadonlyMap<string, DataSet>;

/** What a kind of step does to fields, and what it reads. What it does to records is in core/sql. */
interface StepKind<S extends Step> {
  /** Why it cannot be done over these fields, or null. Asked before anything else. */
  readonly problem: (step: S, before: readonly Field[], world: World) => string | null;
  readonly after: (step: S, before: readonly Field[], world: World) => Field[];
  /** The fields it reads, besides those that only pass through. */
  readonly reads: (step: S, before: readonly Field[]) => readonly string[];
  /** The fields it makes or changes; a step none of whose fields is wanted, and that keeps the records, is left out. */
  readonly makes: (step: S, before: readonly Field[]) => readonly string[];
  /** What becomes of the records: as many, maybe fewer, or others altogether. */
  readonly records: (step: S) => 'same' | 'fewer' | 'other';
}

const named = (fields: readonly Field[], name: string): Field | undefined =>
  fields.find((field) => field.name === name);

function missingOf(names: readonly string[], fields: readonly Field[]): string | null {
  const missing = names.find((name) => !named(fields, name));
  return missing === undefined ? null : `there is no field “${missing}”`;
}

function takenOf(names: readonly string[], fields: readonly Field[]): string | null {
  const seen = new Set(fields.map(({ name }) => name));
  for (const name of names) {
    if (seen.has(name)) return `there is a field “${name}” already`;
    seen.add(name);
  }
  return null;
}

const first = (...problems: (string | null)[]): string | null =>
  problems.find((problem) => problem !== null) ?? null;

const put = (fields: readonly Field[], field: Field): Field[] =>
  named(fields, field.name)
    ? fields.map((each) => (each.name === field.name ? field : each))
    : [...fields, field];

const orderNames = (order: readonly { by: string }[]): string[] => order.map(({ by }) => by);

function orderable(names: readonly string[], fields: readonly Field[]): string | null {
  const nested = names.find((name) => named(fields, name)?.type === 'nested');
  return nested === undefined ? null : `“${nested}” is a list or object, which has no order`;
}

function calculationProblem(calculation: Calculation, fields: readonly Field[]): string | null {
  const missing = missingOf(calculationFields(calculation), fields);
  if (missing) return missing;
  const parts = calculation.kind === 'ratio' ? [calculation.of, calculation.to] : [calculation];
  for (const part of parts) {
    if (!('field' in part)) continue;
    const type = named(fields, part.field)?.type ?? 'text';
    const needsNumber = ['sum', 'average', 'median', 'weighted'].includes(part.kind);
    if (needsNumber && !isNumeric(type)) return `“${part.field}” is no number`;
    if (part.kind === 'percentile' && !isNumeric(type) && !isTemporal(type))
      return `“${part.field}” has no percentiles`;
    if (type === 'nested') return `“${part.field}” is a list or object`;
    if (part.kind === 'weighted' && !isNumeric(named(fields, part.by)?.type ?? 'text'))
      return `“${part.by}” is no number`;
  }
  return null;
}

/** The data set that is referred to, as fields; a cut has those of its data set. */
function other(ref: Ref, world: World): DataSet | string {
  const found = world.get(ref.dataSet);
  if (!found) return 'the other data set is gone';
  if (found.inputs.some(({ required }) => required)) return 'the other data set needs an input';
  if (ref.cut !== undefined && !found.cuts?.some(({ name }) => name === ref.cut))
    return `the other data set has no cut “${ref.cut}”`;
  return found;
}

/** What is known of a field stays with it where only its name changes. */
const renamed = ({ ...field }: Field, name: string): Field => ({ ...field, name });

/** A field whose values are made here: nothing is known of it but its type. */
const fresh = (name: string, type: FieldType): Field => ({ name, type });

const lookUp: StepKind<StepOf<'lookUp'>> = {
  problem(step, before, world) {
    const found = other(step.from, world);
    if (typeof found === 'string') return found;
    const ours = missingOf(
      step.on.map(({ field }) => field),
      before,
    );
    const theirs = missingOf(
      [
        ...step.on.map((each) => each.other),
        ...(brings(step) ? step.take.map(({ field }) => field) : []),
        ...orderNames(step.order),
      ],
      found.fields,
    );
    if (theirs) return `in the other data set ${theirs}`;
    if (ours) return ours;
    for (const { field, other: theirName } of step.on) {
      const [a, b] = [named(before, field)?.type, named(found.fields, theirName)?.type];
      const numbers = a && b && isNumeric(a) && isNumeric(b) && a !== 'float' && b !== 'float';
      if (a !== b && !numbers)
        return `“${field}” is ${a} and “${theirName}” is ${b}, so they are never equal; change the type of one first`;
      if (a === 'nested' || a === 'float') return `“${field}” cannot be matched: it is ${a}`;
    }
    if (step.mode === 'first' && step.order.length === 0) return 'the first by which order? Choose one';
    if (brings(step) && step.take.length === 0) return 'choose what is brought';
    if (!brings(step) || step.mode === 'all') {
      if (step.as === undefined) return 'the new field has no name';
      const taken = takenOf([step.as], before);
      if (taken) return taken;
    }
    if (step.mode === 'aggregate') {
      if (!step.calculation) return 'choose what is worked out';
      const wrong = calculationProblem(step.calculation, found.fields);
      if (wrong) return `in the other data set ${wrong}`;
    }
    return first(
      orderable(orderNames(step.order), found.fields),
      step.mode === 'one' || step.mode === 'first'
        ? takenOf(
            step.take.map(({ as }) => as),
            before,
          )
        : null,
    );
  },
  after(step, before, world) {
    const found = other(step.from, world);
    const fields = typeof found === 'string' ? [] : found.fields;
    const as = step.as ?? '';
    switch (step.mode) {
      case 'one':
      case 'first':
        return [
          ...before,
          ...step.take.map(({ field, as: name }) =>
            renamed(named(fields, field) ?? fresh(field, 'text'), name),
          ),
        ];
      case 'count':
        return [...before, fresh(as, 'integer')];
      case 'any':
        return [...before, fresh(as, 'boolean')];
      case 'all':
        return [...before, fresh(as, 'nested')];
      case 'aggregate':
        return [
          ...before,
          fresh(as, step.calculation ? calculationType(step.calculation, fields) : 'decimal'),
        ];
    }
  },
  reads: (step) => step.on.map(({ field }) => field),
  makes: (step) => (brings(step) && step.mode !== 'all' ? step.take.map(({ as }) => as) : [step.as ?? '']),
  records: () => 'same',
};

/** Whether a look-up brings fields of the other data set, rather than something worked out. */
const brings = ({ mode }: StepOf<'lookUp'>): boolean => mode === 'one' || mode === 'first' || mode === 'all';

/** How a type can be read as another. */
export const readable: Readonly<Record<FieldType, readonly FieldType[]>> = {
  text: ['integer', 'decimal', 'float', 'boolean', 'date', 'instant', 'nested'],
  integer: ['text', 'decimal', 'float'],
  decimal: ['text', 'integer', 'float'],
  float: ['decimal', 'integer'],
  boolean: ['text'],
  date: ['text'],
  instant: ['text', 'date'],
  nested: ['text'],
};

/** The field that holds the texts a type change could not read. */
export const unreadName = (field: string): string => `${field} as written`;

const noOrder = 'in which order? Choose one';

const kinds: { readonly [K in StepKindName]: StepKind<StepOf<K>> } = {
  fields: {
    problem: ({ keep }, before) =>
      first(missingOf(keep, before), new Set(keep).size < keep.length ? 'a field is named twice' : null),
    after: ({ keep }, before) => keep.flatMap((name) => named(before, name) ?? []),
    reads: () => [],
    makes: () => [],
    records: () => 'same',
  },
  rename: {
    problem: ({ field, as }, before) =>
      first(missingOf([field], before), field === as ? 'it is called so already' : takenOf([as], before)),
    after: ({ field, as }, before) => before.map((each) => (each.name === field ? renamed(each, as) : each)),
    reads: ({ field }) => [field],
    makes: ({ as }) => [as],
    records: () => 'same',
  },
  type: {
    problem: ({ field, to, misfit }, before) => {
      const from = named(before, field);
      if (!from) return missingOf([field], before);
      if (from.type === to) return `“${field}” is ${to} already`;
      if (!readable[from.type].includes(to)) return `${from.type} cannot be read as ${to}`;
      return misfit === 'list' ? takenOf([unreadName(field)], before) : null;
    },
    after: ({ field, to, misfit }, before) => {
      const changed = before.map((each): Field => {
        if (each.name !== field) return each;
        const { format: _, states: __, ...rest } = each;
        return { ...rest, type: to };
      });
      return misfit === 'list' ? [...changed, fresh(unreadName(field), 'text')] : changed;
    },
    reads: ({ field }) => [field],
    makes: ({ field, misfit }) => (misfit === 'list' ? [field, unreadName(field)] : [field]),
    records: () => 'same',
  },
  where: {
    problem: ({ condition }, before) => missingOf(fieldsOf(condition), before),
    after: (_, before) => [...before],
    reads: ({ condition }) => fieldsOf(condition),
    makes: () => [],
    records: () => 'fewer',
  },
  derive: {
    problem: ({ making }, before) => {
      const found = made(making, before);
      return found.ok ? null : found.why;
    },
    after: ({ name, making }, before) => {
      const found = made(making, before);
      const type = found.ok ? found.type : 'text';
      const was = named(before, name);
      const field: Field = {
        ...(was?.type === type && making.kind === 'shift' ? was : fresh(name, type)),
        ...(making.kind === 'link' ? { format: { kind: 'link' as const } } : {}),
      };
      return put(before, field);
    },
    reads: ({ making }, before) => readsOf(making, before),
    makes: ({ name }) => [name],
    records: () => 'same',
  },
  lookUp,
  unfold: {
    problem: ({ field, as, place }, before) =>
      first(
        missingOf([field], before),
        named(before, field)?.type === 'nested' ? null : `“${field}” is no list`,
        takenOf([...(as === field ? [] : [as]), ...(place === undefined ? [] : [place])], before),
      ),
    after: ({ field, as, place }, before) => [
      ...before.map((each) => (each.name === field ? fresh(as, 'nested') : each)),
      ...(place === undefined ? [] : [fresh(place, 'integer')]),
    ],
    reads: ({ field }) => [field],
    makes: ({ as, place }) => [as, ...(place === undefined ? [] : [place])],
    records: () => 'other',
  },
  spread: {
    problem: ({ field, take, keepWhole }, before) =>
      first(
        missingOf([field], before),
        take.length === 0 ? 'choose what is taken out of it' : null,
        named(before, field)?.type === 'nested' ? null : `“${field}” is no object`,
        takenOf(
          take.map(({ name }) => name),
          keepWhole ? before : before.filter(({ name }) => name !== field),
        ),
      ),
    after: ({ field, take, keepWhole }, before) => [
      ...before.filter(({ name }) => keepWhole || name !== field),
      ...take.map(({ name, type }) => fresh(name, type)),
    ],
    reads: ({ field }) => [field],
    makes: ({ take }) => take.map(({ name }) => name),
    records: () => 'same',
  },
  stack: {
    problem({ with: list, origin }, before, world) {
      for (const { ref } of list) {
        const found = other(ref, world);
        if (typeof found === 'string') return found;
        for (const field of found.fields) {
          const own = named(before, field.name);
          if (own && own.type !== field.type)
            return `“${field.name}” is ${own.type} here and ${field.type} in the other; change the type of one first`;
        }
      }
      return origin ? takenOf([origin.name], stacked(list, before, world)) : null;
    },
    after: ({ with: list, origin }, before, world) => [
      ...stacked(list, before, world),
      ...(origin ? [fresh(origin.name, 'text')] : []),
    ],
    reads: () => [],
    makes: () => [],
    records: () => 'other',
  },
  distinct: {
    problem: ({ by, order }, before) =>
      first(
        missingOf([...by, ...orderNames(order)], before),
        orderable([...by, ...orderNames(order)], before),
      ),
    after: (_, before) => [...before],
    reads: ({ by, order }, before) => distinctReads(by, order, before),
    makes: () => [],
    records: () => 'fewer',
  },
  fill: {
    problem(step, before) {
      const field = named(before, step.field);
      if (!field) return missingOf([step.field], before);
      if (step.with.kind === 'value') return literalProblem(step.with.value, field.type);
      const names = [...orderNames(step.with.order), ...step.with.within];
      return first(
        step.with.order.length === 0 ? noOrder : null,
        missingOf(names, before),
        orderable(names, before),
      );
    },
    after: (_, before) => [...before],
    reads: (step, before) =>
      step.with.kind === 'value'
        ? [step.field]
        : [step.field, ...step.with.within, ...tied(step.with.order, before)],
    makes: ({ field }) => [field],
    records: () => 'same',
  },
  summarise: {
    problem({ by, measures }, before) {
      const missing = missingOf(
        by.map(({ field }) => field),
        before,
      );
      if (missing) return missing;
      for (const { field, unit } of by) {
        const type = named(before, field)?.type ?? 'text';
        if (unit && !isTemporal(type)) return `“${field}” is neither a date nor a moment`;
        if (type === 'nested') return `“${field}” is a list or object`;
      }
      const wrong = measures
        .map(({ calculation, where }) =>
          first(calculationProblem(calculation, before), missingOf(where ? fieldsOf(where) : [], before)),
        )
        .find((problem) => problem !== null);
      return wrong ?? takenOf([...by.map(({ as }) => as), ...measures.map(({ name }) => name)], []);
    },
    after: ({ by, measures }, before) => [
      ...by.map(({ field, unit, as }) => {
        const own = named(before, field) ?? fresh(field, 'text');
        return unit ? fresh(as, 'date') : renamed(own, as);
      }),
      ...measures.map(({ name, calculation }) => fresh(name, calculationType(calculation, before))),
    ],
    reads: ({ by, measures }) => [...by.map(({ field }) => field), ...measures.flatMap(measureFields)],
    makes: () => [],
    records: () => 'other',
  },
  rank: {
    problem: ({ as, order, within }, before) => {
      const names = [...orderNames(order), ...within];
      return first(
        order.length === 0 ? noOrder : null,
        missingOf(names, before),
        orderable(names, before),
        takenOf([as], before),
      );
    },
    after: ({ as }, before) => [...before, fresh(as, 'integer')],
    reads: ({ order, within }) => [...orderNames(order), ...within],
    makes: ({ as }) => [as],
    records: ({ keep }) => (keep === undefined ? 'same' : 'fewer'),
  },
  running: {
    problem({ as, what, field, order, within, over }, before) {
      const names = [...orderNames(order), ...within];
      const type = named(before, field)?.type;
      return first(
        missingOf([field, ...names], before),
        type && isNumeric(type) ? null : `“${field}” is no number`,
        orderable(names, before),
        what !== 'share' && order.length === 0 ? noOrder : null,
        what === 'average' && over === undefined ? 'over how many records?' : null,
        takenOf([as], before),
      );
    },
    after: ({ as, what, field }, before) => {
      const type = named(before, field)?.type ?? 'decimal';
      const divided = what === 'average' || what === 'share';
      return [...before, fresh(as, divided && type !== 'float' ? 'decimal' : type)];
    },
    reads: ({ field, what, order, within }, before) => [
      field,
      ...within,
      ...(what === 'share' ? [] : tied(order, before)),
    ],
    makes: ({ as }) => [as],
    records: () => 'same',
  },
  periods: {
    problem: ({ field, within, zero }, before) => {
      if (within.includes(field)) return `“${field}” is the calendar itself`;
      return first(
        missingOf([field, ...within, ...zero], before),
        named(before, field)?.type === 'date'
          ? null
          : `“${field}” is no date; summarise by a calendar unit first`,
        orderable(within, before),
        zero.every((name) => isNumeric(named(before, name)?.type ?? 'text'))
          ? null
          : 'only numbers count as zero',
      );
    },
    after: (_, before) => before.map((field) => field),
    reads: ({ field, within }) => [field, ...within],
    makes: () => [],
    records: () => 'other',
  },
  wide: {
    problem: ({ by, across, values, calculation }, before) => {
      const type = named(before, across)?.type;
      return first(
        missingOf([...by, across], before),
        type === 'text' || type === 'integer' || type === 'boolean'
          ? null
          : `“${across}” has no values to make fields of`,
        values.map(({ value }) => literalProblem(value, type ?? 'text')).find((each) => each !== null) ??
          null,
        orderable(by, before),
        calculationProblem(calculation, before),
        takenOf([...by, ...values.map(({ as }) => as)], []),
      );
    },
    after: ({ by, values, calculation }, before) => [
      ...by.flatMap((name) => named(before, name) ?? []),
      ...values.map(({ as }) => fresh(as, calculationType(calculation, before))),
    ],
    reads: ({ by, across, calculation }) => [...by, across, ...calculationFields(calculation)],
    makes: () => [],
    records: () => 'other',
  },
  long: {
    problem({ fields, name, value }, before) {
      const missing = missingOf(fields, before);
      if (missing) return missing;
      const types = new Set(fields.map((each) => named(before, each)?.type));
      if (types.size === 0) return 'choose the fields';
      if (types.size > 1) return `these fields are of different types: ${[...types].join(', ')}`;
      return takenOf(
        [name, value],
        before.filter((field) => !fields.includes(field.name)),
      );
    },
    after: ({ fields, name, value }, before) => [
      ...before.filter((field) => !fields.includes(field.name)),
      fresh(name, 'text'),
      fresh(value, named(before, fields[0] ?? '')?.type ?? 'text'),
    ],
    reads: ({ fields }) => fields,
    makes: ({ name, value }) => [name, value],
    records: () => 'other',
  },
};

function literalProblem(text: string, type: FieldType): string | null {
  const read = parseValue(type, text);
  return read.ok ? null : read.why;
}

function stacked(list: StepOf<'stack'>['with'], before: readonly Field[], world: World): Field[] {
  const fields = [...before];
  for (const { ref } of list) {
    const found = other(ref, world);
    const theirs = typeof found === 'string' ? [] : found.fields;
    fields.push(...theirs.filter(({ name }) => !named(fields, name)));
  }
  return fields;
}

/**
 * An order that leaves no two different records in a tie: after what was said, every field, lists and objects last. What comes
 * first is then the same each time, on every engine.
 */
export function tied(order: readonly { by: string }[], before: readonly Field[]): string[] {
  return [...new Set([...orderNames(order), ...plainNames(before), ...before.map(({ name }) => name)])];
}

/** The fields that have an order and can be compared. */
export const plainNames = (fields: readonly Field[]): string[] =>
  fields.filter(({ type }) => type !== 'nested').map(({ name }) => name);

const distinctReads = (
  by: readonly string[],
  order: readonly { by: string }[],
  before: readonly Field[],
): string[] => [...new Set([...by, ...tied(order, before)])];

const kindOf = (step: Step): StepKind<Step> => kinds[step.kind] as unknown as StepKind<Step>;

/** What has become of the fields after some steps, and the first problem of each step that cannot be done. */
export interface Shaped {
  /** The fields before each step, and last those after all of them. */
  readonly fields: readonly (readonly Field[])[];
  /** By step, null where it can be done. A step that cannot leaves the fields as they were. */
  readonly problems: readonly (string | null)[];
}

/** Engines that do not tell capitals apart would take one for the other; what a source already calls so stays. */
function sameButForCapitals(before: readonly Field[], after: readonly Field[]): string | null {
  const known = new Map<string, string>();
  for (const { name } of after) {
    const other = known.get(name.toLowerCase());
    known.set(name.toLowerCase(), name);
    if (other !== undefined && !(named(before, name) && named(before, other)))
      return `“${other}” and “${name}” are the same but for capitals; call one of them otherwise`;
  }
  return null;
}

/** Follows the fields through steps. */
export function shape(start: readonly Field[], steps: readonly Step[], world: World): Shaped {
  const fields: (readonly Field[])[] = [start];
  const problems: (string | null)[] = [];
  for (const step of steps) {
    const before = fields.at(-1) ?? start;
    const kind = kindOf(step);
    const wrong = step.off ? null : kind.problem(step, before, world);
    const after = step.off || wrong ? before : kind.after(step, before, world);
    const problem = wrong ?? sameButForCapitals(before, after);
    problems.push(problem);
    fields.push(problem ? before : after);
  }
  return { fields, problems };
}

export const stepReads = (step: Step, before: readonly Field[]): readonly string[] =>
  kindOf(step).reads(step, before);
export const stepMakes = (step: Step, before: readonly Field[]): readonly string[] =>
  kindOf(step).makes(step, before);
export const stepRecords = (step: Step): 'same' | 'fewer' | 'other' => kindOf(step).records(step);

/** The conditions of a step, in the order in which they are resolved. */
export function stepConditions(step: Step): Condition[] {
  switch (step.kind) {
    case 'where':
      return [step.condition];
    case 'derive':
      if (step.making.kind === 'choose') return step.making.when.map(({ where }) => where);
      return step.making.kind === 'shift' && step.making.where ? [step.making.where] : [];
    case 'summarise':
      return step.measures.flatMap(({ calculation, where }) => [
        ...(where ? [where] : []),
        ...(calculation.kind === 'share' ? [calculation.where] : []),
      ]);
    case 'lookUp':
      return step.calculation?.kind === 'share' ? [step.calculation.where] : [];
    case 'wide':
      return step.calculation.kind === 'share' ? [step.calculation.where] : [];
    default:
      return [];
  }
}

/** The data sets that a step refers to, in order. */
export function stepRefs(step: Step): Ref[] {
  if (step.kind === 'lookUp') return [step.from];
  return step.kind === 'stack' ? step.with.map(({ ref }) => ref) : [];
}

/** Why a source cannot do a step itself, so that its records are fetched for it or kept; null where it can. */
export function notAtSource(step: Step): string | null {
  return step.kind === 'derive' && step.making.kind === 'extract'
    ? 'databases each have their own kind of pattern'
    : null;
}

/** How a field is called where it is spoken of. */
export const fieldWords = (name: string, fields: readonly Field[]): string =>
  labelOf(named(fields, name) ?? { name }).toLowerCase();
