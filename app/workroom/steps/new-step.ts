import { namingField } from '#core/dataset/identity.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { readable } from '#core/dataset/step/kinds/fields.ts';
import { likelyOther, likelyPair } from '#core/dataset/step/likeness.ts';
import type { Making, Step, StepKindName, StepOf } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import { firstTest } from '../condition-draft.ts';

/* Steps as they start out, filled in with a guess that can be done where there is one. Pure. */

/** What can be done next, as a person would say it, in groups. */
export const offers: readonly {
  readonly title: string;
  readonly kinds: readonly [StepKindName, string][];
}[] = [
  {
    title: 'Records',
    kinds: [
      ['where', 'Keep only some records'],
      ['distinct', 'Remove duplicates'],
      ['stack', 'Stack another data set underneath'],
      ['rank', 'Number them, or keep the first few'],
      ['summarise', 'Summarise by groups'],
      ['periods', 'Add the periods that are missing'],
    ],
  },
  {
    title: 'Fields',
    kinds: [
      ['derive', 'Make a field'],
      ['lookUp', 'Look up in another data set'],
      ['type', 'Change a type'],
      ['rename', 'Rename a field'],
      ['fields', 'Leave out or reorder fields'],
      ['fill', 'Fill blanks'],
      ['running', 'Running total, difference, average, share'],
    ],
  },
  {
    title: 'Shape',
    kinds: [
      ['unfold', 'Make records of a list'],
      ['spread', 'Make fields of an object'],
      ['wide', 'Make fields of values'],
      ['long', 'Make records of fields'],
    ],
  },
];

/** A name that no field has. */
export const freeFieldName = (wanted: string, fields: readonly Field[]): string =>
  freeName(wanted, (name) => fields.some((field) => field.name.toLowerCase() === name.toLowerCase()), ' ');

export interface Others {
  /** The data sets that can be looked up or stacked, by id. */
  readonly world: ReadonlyMap<string, DataSet>;
  /** This data set's own id. */
  readonly own: string;
}

/** A step of a kind over some fields; `about` is the field it starts with, where one was pointed at. */
export function newStep(
  kind: StepKindName,
  id: string,
  fields: readonly Field[],
  { world, own }: Others,
  about?: string,
): Step {
  const plain = fields.filter(({ type }) => type !== 'nested');
  const first = (fits: (field: Field) => boolean): string =>
    (fields.find((field) => field.name === about && fits(field)) ?? fields.find(fits) ?? fields[0])?.name ??
    '';
  const any = first(({ type }) => type !== 'nested');
  const number = first(({ type }) => isNumeric(type));
  const moment = first(({ type }) => isTemporal(type));
  const nested = first(({ type }) => type === 'nested');
  const named = (name: string): Field | undefined => fields.find((field) => field.name === name);
  const order = [{ by: moment || any }];
  switch (kind) {
    case 'fields':
      return {
        kind,
        id,
        keep: fields.map(({ name }) => name).filter((name) => name !== about || fields.length === 1),
      };
    case 'rename':
      return { kind, id, field: about ?? any, as: freeFieldName(`${about ?? any} new`, fields) };
    case 'type': {
      const text = about ?? first(({ type }) => type === 'text');
      return {
        kind,
        id,
        field: text,
        to: readable[named(text)?.type ?? 'text'][0] ?? 'text',
        misfit: 'blank',
      };
    }
    case 'where': {
      const field = named(any);
      return { kind, id, condition: field ? { field: field.name, test: firstTest(field) } : { all: [] } };
    }
    case 'derive':
      return {
        kind,
        id,
        name: freeFieldName('new field', fields),
        making: { kind: 'expression', text: about ? quoted(about) : '' },
      };
    case 'lookUp': {
      const asked = fields.filter(({ name }) => about === undefined || name === about);
      const [dataSet, other] =
        likelyOther(
          asked,
          [...world].filter(([each]) => each !== own),
        ) ?? [];
      const on = likelyPair(asked, other ?? { fields: [] });
      const title = other ? titleOf(other, on.other) : on.other;
      return {
        kind,
        id,
        from: { dataSet: dataSet ?? own },
        on: [about === undefined ? on : { ...on, field: about }],
        mode: 'one',
        take: title ? [{ field: title, as: freeFieldName(title, fields) }] : [],
        order: [],
      };
    }
    case 'unfold':
      return { kind, id, field: nested, as: nested, keepEmpty: true };
    case 'spread':
      return { kind, id, field: nested, take: [], keepWhole: false } as unknown as Step;
    case 'stack': {
      const [[dataSet, other] = []] = [...world].filter(([each]) => each !== own);
      return { kind, id, with: [{ ref: { dataSet: dataSet ?? own }, word: other?.noun.many ?? '' }] };
    }
    case 'distinct':
      return { kind, id, by: about ? [about] : [], order: [] };
    case 'fill':
      return { kind, id, field: about ?? any, with: filling(named(about ?? any)?.type ?? 'text', order) };
    case 'summarise':
      return {
        kind,
        id,
        by: any ? [{ field: any, as: any }] : [],
        measures: [{ name: freeFieldName('how many', fields), calculation: { kind: 'count' } }],
      };
    case 'rank':
      return { kind, id, as: freeFieldName('place', fields), order, within: [] };
    case 'running':
      return {
        kind,
        id,
        as: freeFieldName(`${number} so far`, fields),
        what: 'total',
        field: number,
        order,
        within: [],
      };
    case 'periods':
      return {
        kind,
        id,
        field: first(({ type }) => type === 'date'),
        unit: 'day',
        within: [],
        zero: plain.filter(({ type }) => isNumeric(type)).map(({ name }) => name),
      };
    case 'wide':
      return {
        kind,
        id,
        by: [any],
        across: first(({ type }) => type === 'text'),
        values: [{ value: '', as: 'first' }],
        calculation: { kind: 'count' },
      };
    case 'long': {
      const type = named(number)?.type;
      return {
        kind,
        id,
        fields: plain
          .filter((field) => field.type === type)
          .slice(0, 2)
          .map(({ name }) => name),
        name: freeFieldName('name', fields),
        value: freeFieldName('value', fields),
      };
    }
  }
}

/** The field of another data set that a look-up brings: what names a record there, else the first text beside what is compared. */
export const titleOf = ({ title, fields }: Pick<DataSet, 'title' | 'fields'>, compared: string): string =>
  title ??
  namingField(fields) ??
  (
    fields.find(({ name, type }) => type === 'text' && name !== compared) ??
    fields.find(({ name }) => name !== compared)
  )?.name ??
  compared;

/** What a blank is filled with while nobody has said: a moment by the one before it, anything else by a plain word or zero. */
function filling(type: Field['type'], order: { by: string }[]): StepOf<'fill'>['with'] {
  if (isNumeric(type)) return { kind: 'value', value: '0' };
  if (type === 'boolean') return { kind: 'value', value: 'false' };
  return type === 'text' ? { kind: 'value', value: 'not said' } : { kind: 'before', order, within: [] };
}

const quoted = (name: string): string =>
  /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) ? name : `"${name.replaceAll('"', '""')}"`;

/** The ready-made ways of making a field, and writing an expression. */
export const makings: readonly [Making['kind'], string][] = [
  ['expression', 'an expression'],
  ['join', 'texts put together'],
  ['split', 'a part of a text'],
  ['extract', 'what a pattern finds'],
  ['between', 'the time between'],
  ['bands', 'bands of a number'],
  ['bins', 'equal steps of a number'],
  ['choose', 'a word by conditions'],
  ['link', 'a link'],
  ['period', 'the period of a date'],
  ['shift', 'a moment earlier or later'],
  ['clock', 'a moment by a zone’s clocks'],
];

/** A way of making a field, filled in with a guess. */
export function newMaking(kind: Making['kind'], fields: readonly Field[]): Making {
  const first = (fits: (field: Field) => boolean): string => (fields.find(fits) ?? fields[0])?.name ?? '';
  const text = first(({ type }) => type === 'text');
  const number = first(({ type }) => isNumeric(type));
  const instant = first(({ type }) => type === 'instant');
  const moment = first(({ type }) => isTemporal(type));
  switch (kind) {
    case 'expression':
      return { kind, text: '' };
    case 'join':
      return {
        kind,
        fields: fields
          .filter(({ type }) => type === 'text')
          .slice(0, 2)
          .map(({ name }) => name),
        between: ' ',
      };
    case 'split':
      return { kind, field: text, at: ',', part: 1 };
    case 'extract':
      return { kind, field: text, pattern: '[0-9]+' };
    case 'between':
      return { kind, from: moment, unit: 'day' };
    case 'bands':
      return {
        kind,
        field: number,
        bands: [
          { below: '7', word: 'under 7' },
          { below: '30', word: '7 to 29' },
        ],
        rest: '30 and more',
      };
    case 'bins':
      return { kind, field: number, size: '10' };
    case 'choose': {
      const field = fields.find(({ type }) => type !== 'nested');
      return {
        kind,
        when: [{ where: field ? { field: field.name, test: firstTest(field) } : { all: [] }, word: 'yes' }],
        otherwise: 'no',
      };
    }
    case 'link':
      return { kind, template: `https://example.com/{${text}}` };
    case 'period':
      return { kind, field: moment, unit: 'month' };
    case 'shift':
      return { kind, field: instant, minutes: 60 };
    case 'clock':
      // The clocks that the analyst sees are the likeliest.
      return { kind, field: instant, zone: Intl.DateTimeFormat().resolvedOptions().timeZone };
  }
}
