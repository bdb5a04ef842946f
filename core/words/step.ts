import type { Calculation } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { fieldWords, stepRecords } from '#core/dataset/step/kinds.ts';
import type { Making, Ref, Step, StepOf } from '#core/dataset/step/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import { counted } from '#core/value/format/counted.ts';
import { conditionWords, listWords } from './condition.ts';
import { calculationWords } from './measure.ts';

/** What a step does holds whenever it is done: no moment is said. */
const clock = 'UTC';

export interface StepWords {
  readonly before: readonly Field[];
  readonly world: World;
  /** What the records are called. */
  readonly many: string;
  /** The names of data sets, by id; without them they are called by what their records are. */
  readonly names?: ReadonlyMap<string, string>;
}

/** What the records are called before a step: a later step that makes others of them gives those their name. */
export const calledAt = (steps: readonly Step[], at: number, many: string): string =>
  steps.slice(at).some((step) => !step.off && stepRecords(step) === 'other' && step.kind !== 'stack')
    ? 'records'
    : many;

const clipped = (text: string, most = 90): string =>
  text.length > most ? `${text.slice(0, most - 1)}…` : text;
const orderWords = (
  order: readonly { by: string; descending?: boolean | undefined }[],
  fields: readonly Field[],
): string =>
  listWords(
    order.map(({ by, descending }) => `${fieldWords(by, fields)}${descending ? ', greatest first' : ''}`),
  );

/** A step as a sentence without its full stop: "Keep sailings where cause is weather". */
export function stepWords(step: Step, { before, world, many, names }: StepWords): string {
  const label = (name: string): string => fieldWords(name, before);
  const labels = (names: readonly string[]): string => listWords(names.map(label));
  const within = (names: readonly string[]): string =>
    names.length === 0 ? '' : `, for each ${labels(names)}`;
  switch (step.kind) {
    case 'fields': {
      const dropped = before.filter(({ name }) => !step.keep.includes(name)).map(({ name }) => name);
      if (dropped.length === 0) return 'Put the fields in another order';
      return dropped.length <= step.keep.length
        ? `Leave out ${labels(dropped)}`
        : `Keep only ${labels(step.keep)}`;
    }
    case 'rename':
      return `Call ${label(step.field)} “${step.as}”`;
    case 'type':
      return `Read ${label(step.field)} as ${typeWords[step.to]}${misfitWords[step.misfit]}`;
    case 'where':
      return clipped(`Keep ${many} where ${conditionWords(step.condition, before, clock)}`, 160);
    case 'derive':
      return clipped(makingSentence(step, before), 160);
    case 'lookUp':
      return lookUpWords(step, before, world);
    case 'unfold':
      return `Make a record of each item in ${label(step.field)}`;
    case 'spread':
      return `Take ${listWords(step.take.map(({ name }) => name))} out of ${label(step.field)}`;
    case 'stack':
      return `Stack ${listWords(step.with.map(({ ref }) => (ref.subset === undefined ? names?.get(ref.dataSet) : undefined) ?? refWords(ref, world)))} underneath`;
    case 'distinct': {
      const by = step.by.length === 0 ? 'all fields' : labels(step.by);
      const first = step.order.length === 0 ? '' : `, the first by ${orderWords(step.order, before)}`;
      return `Keep one record for each ${by}${first}`;
    }
    case 'fill':
      return step.with.kind === 'value'
        ? `Where ${label(step.field)} is blank, put “${clipped(step.with.value, 40)}”`
        : `Where ${label(step.field)} is blank, put the one before by ${orderWords(step.with.order, before)}${within(step.with.within)}`;
    case 'summarise': {
      const measures = listWords(step.measures.map(({ name }) => name));
      const by = step.by.map(({ field, unit }) => (unit ? `${unit} of ${label(field)}` : label(field)));
      return by.length === 0 ? `Summarise to ${measures}` : `Summarise by ${listWords(by)}: ${measures}`;
    }
    case 'rank':
      return step.keep === undefined
        ? `Number by ${orderWords(step.order, before)}${within(step.within)}`
        : `Keep the first ${step.keep} by ${orderWords(step.order, before)}${within(step.within)}`;
    case 'running':
      return `${runningWords(step, label(step.field))}${step.order.length > 0 ? ` by ${orderWords(step.order, before)}` : ''}${within(step.within)}`;
    case 'periods':
      return `Add each ${step.unit} of ${label(step.field)} that is missing${within(step.within)}`;
    case 'wide':
      return `Make a field for each of ${counted(step.values.length, 'value')} of ${label(step.across)}${within(step.by)}`;
    case 'long':
      return `Make a record for each of ${labels(step.fields)}`;
  }
}

export const typeWords = {
  text: 'text',
  integer: 'whole numbers',
  decimal: 'numbers',
  float: 'approximate numbers',
  boolean: 'yes or no',
  date: 'dates',
  instant: 'moments',
  nested: 'lists or objects',
} as const;

const misfitWords = {
  blank: '',
  list: ', keeping what cannot be read beside it',
  stop: ', or stop where that fails',
} as const;

function runningWords({ what, over }: StepOf<'running'>, label: string): string {
  switch (what) {
    case 'total':
      return `Add up ${label}`;
    case 'difference':
      return `Take the difference of ${label} from the one before`;
    case 'average':
      return `Average the latest ${over ?? 1} of ${label}`;
    case 'share':
      return `Take each share of all ${label}`;
  }
}

const refWords = ({ dataSet, subset }: Ref, world: World): string => {
  const found = world.get(dataSet);
  if (!found) return 'a data set that no longer exists';
  return found.subsets?.find(({ name }) => name === subset)?.label ?? found.noun.many;
};

function lookUpWords(step: StepOf<'lookUp'>, before: readonly Field[], world: World): string {
  const from = refWords(step.from, world);
  const other = world.get(step.from.dataSet);
  const by = listWords(step.on.map(({ field }) => fieldWords(field, before)));
  const taken = listWords(step.take.map(({ field }) => fieldWords(field, other?.fields ?? [])));
  switch (step.mode) {
    case 'one':
      return `Look up ${taken} of the one in ${from} with this ${by}`;
    case 'first':
      return `Look up ${taken} of the first in ${from} with this ${by}`;
    case 'count':
      return `Count ${from} with this ${by}`;
    case 'any':
      return `Say whether ${from} have this ${by}`;
    case 'all':
      return `List all ${from} with this ${by}`;
    case 'aggregate': {
      const what = step.calculation && other ? ofOther(step.calculation, other) : 'a figure';
      return `Look up the ${what} of ${from} with this ${by}`;
    }
  }
}

const ofOther = (calculation: Calculation, other: DataSet): string => calculationWords(calculation, other);

function makingSentence({ name, making }: StepOf<'derive'>, before: readonly Field[]): string {
  const isSame = before.some((field) => field.name === name);
  const words = makingWords(making, before);
  return isSame ? `Change ${fieldWords(name, before)} to ${words}` : `Make “${name}”: ${words}`;
}

/** How a field is made, in words. */
export function makingWords(making: Making, before: readonly Field[]): string {
  const label = (field: string): string => fieldWords(field, before);
  switch (making.kind) {
    case 'expression':
      return making.text.replace(/\s+/g, ' ').trim();
    case 'join':
      return `${listWords(making.fields.map(label))} put together`;
    case 'split':
      return `part ${making.part} of ${label(making.field)} at “${making.at}”`;
    case 'extract':
      return `what “${making.pattern}” finds in ${label(making.field)}`;
    case 'between':
      return `${making.unit}s from ${label(making.from)} to ${making.to === undefined ? 'now' : label(making.to)}`;
    case 'bands':
      return `a band of ${label(making.field)}: ${listWords([...making.bands.map(({ word }) => word), making.rest], 'or', 5)}`;
    case 'bins':
      return `${label(making.field)} in steps of ${making.size}`;
    case 'choose':
      return `${listWords([...making.when.map(({ word }) => word), making.otherwise], 'or', 5)}, by conditions`;
    case 'link':
      return `a link ${making.template}`;
    case 'period':
      return `the ${making.unit} of ${label(making.field)}`;
    case 'shift': {
      const far = Math.abs(making.minutes);
      const time = far % 60 === 0 ? counted(far / 60, 'hour') : counted(far, 'minute');
      const where = making.where ? ` where ${conditionWords(making.where, before, clock)}` : '';
      return `${label(making.field)} ${time} ${making.minutes < 0 ? 'earlier' : 'later'}${where}`;
    }
    case 'clock':
      return `${label(making.field)}, read by the clocks of ${making.zone}`;
  }
}
