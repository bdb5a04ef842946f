import { describe, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import { Step, type StepKindName } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import type { StepFigures } from '#server/shape/records.ts';
import { makings, newMaking, newStep, offers } from './new-step.ts';
import {
  alikeWarning,
  mayBeAlike,
  profileWarnings,
  splitWarnings,
  stepWarnings,
  stillAccepted,
  type Warning,
  zoneWarnings,
} from './warnings.ts';

const fields: Field[] = [
  { name: 'id', type: 'integer' },
  { name: 'gate', type: 'text' },
  { name: 'took', type: 'text' },
  { name: 'fare', type: 'decimal' },
  { name: 'at', type: 'instant' },
  { name: 'day', type: 'date' },
  { name: 'parts', type: 'nested' },
];
const gates: DataSet = {
  version: 2,
  source: '00000000-0000-4000-8000-000000000001',
  request: { kind: 'upload', columns: [] },
  inputs: [],
  fields: [
    { name: 'code', type: 'text' },
    { name: 'terminal', type: 'text' },
  ],
  key: 'code',
  title: 'terminal',
  noun: { one: 'gate', many: 'gates' },
  measures: [],
};
const world = new Map([['00000000-0000-4000-8000-000000000002', gates]]);
const others = { world, own: '00000000-0000-4000-8000-000000000003' };

describe('a step that is added', () => {
  const kinds = offers.flatMap(({ kinds: some }) => some.map(([kind]) => kind));
  /** What only a person can say: the expression, and what is in an object. */
  const open = new Set<StepKindName>(['derive', 'spread']);

  test.each(kinds)('%s is one that can be kept, and done where a guess is possible', (kind) => {
    const step = newStep(kind, 'step-1', fields, others);
    expect(Step.safeParse(step).error).toBeUndefined();
    const [problem] = shape(fields, [step], world).problems;
    if (open.has(kind)) expect(problem).not.toBeNull();
    else expect(problem).toBeNull();
  });

  test.each(makings.filter(([kind]) => kind !== 'expression').map(([kind]) => kind))(
    'a field that is made as %s can be made at once',
    (kind) => {
      const step: Step = { kind: 'derive', id: 'step-1', name: 'made', making: newMaking(kind, fields) };
      expect(shape(fields, [step], world).problems).toEqual([null]);
    },
  );
});

const figures = (records: string, more: Partial<StepFigures> = {}): StepFigures => ({
  records,
  blank: {},
  lost: '0',
  took: 1,
  ...more,
});
const warned = (step: Step, after: StepFigures, before = figures('100')): string[] =>
  stepWarnings(step, fields, shape(fields, [step], world).fields[1] ?? [], after, before, 'scans').map(
    ({ words }) => words,
  );

describe('a step warns', () => {
  const where: Step = { kind: 'where', id: 's', condition: { field: 'gate', test: { op: 'filled' } } };

  test('when it keeps nothing, or everything, and not otherwise', () => {
    expect(warned(where, figures('0'))).toEqual(['It keeps nothing.']);
    expect(warned(where, figures('100'))).toEqual(['It keeps everything.']);
    expect(warned(where, figures('99'))).toEqual([]);
    const [warning] = stepWarnings(where, fields, fields, figures('0'), figures('100'), 'scans');
    expect(warning?.mend).toMatchObject({ step: { ...where, off: true } });
    expect(warned({ ...where, off: true }, figures('0'))).toEqual([]);
  });

  test('when a type change loses values, with the mend that keeps them', () => {
    const type: Step = { kind: 'type', id: 's', field: 'took', to: 'integer', misfit: 'blank' };
    const [warning] = stepWarnings(
      type,
      fields,
      fields,
      figures('100', { lost: '6' }),
      figures('100'),
      'scans',
    );
    expect(warning?.words).toBe('6 of the values of took cannot be read like that and are blank now.');
    expect(warning?.mend).toMatchObject({ step: { ...type, misfit: 'list' } });
  });

  test('when a look-up finds nothing for some, and when unfolding drops records', () => {
    const lookUp = newStep('lookUp', 's', fields, others);
    expect(warned(lookUp, figures('100', { blank: { terminal: '7' } }))[0]).toContain(
      '7 of the scans have no match',
    );
    const unfold: Step = { kind: 'unfold', id: 's', field: 'parts', as: 'part', keepEmpty: false };
    expect(warned(unfold, figures('90'))).toEqual(['Records without an item are dropped.']);
    expect(warned(unfold, figures('190'))).toEqual([]);
  });

  test('when a field that it makes is mostly blank', () => {
    const derive: Step = { kind: 'derive', id: 's', name: 'x', making: { kind: 'expression', text: '1' } };
    expect(warned(derive, figures('100', { blank: { x: '31' } }))[0]).toContain('blank for 31 of 100');
    expect(warned(derive, figures('100', { blank: { x: '30' } }))).toEqual([]);
    // What a blank number should be nobody can guess; a text can say that it is not known.
    const mendOf = (type: Field['type']) =>
      stepWarnings(
        derive,
        fields,
        [{ name: 'x', type }],
        figures('100', { blank: { x: '31' } }),
        undefined,
        'scans',
      )[0]?.mend;
    expect(mendOf('integer')).toBeUndefined();
    expect(mendOf('text')).toMatchObject({ add: [{ kind: 'fill', field: 'x' }] });
  });
});

const written = (some: Partial<NonNullable<FieldProfile['readable']>>): FieldProfile['readable'] => ({
  integer: '0',
  decimal: '0',
  date: '0',
  instant: '0',
  local: '0',
  padded: '0',
  ...some,
});

describe('the records themselves warn', () => {
  const profile = (name: string, more: Partial<FieldProfile> = {}): FieldProfile => ({
    name,
    records: '100',
    blank: '0',
    distinct: '100',
    about: false,
    least: null,
    greatest: null,
    frequent: [],
    spread: [],
    readable: written({}),
    ...more,
  });
  const about = { key: 'id', many: 'scans', zone: 'Europe/London' };
  const warningsOf = (...profiles: FieldProfile[]) => profileWarnings(profiles, fields, about);

  test('of numbers kept as text, with the change of type as the mend', () => {
    const readable = written({ integer: '90', decimal: '90' });
    const [warning] = warningsOf(profile('took', { blank: '10', readable }));
    expect(warning?.words).toContain('kept as text');
    expect(warning?.mend).toMatchObject({
      add: [{ kind: 'type', field: 'took', to: 'integer', misfit: 'blank' }],
    });
    expect(warningsOf(profile('took', { readable: written({ integer: '79', decimal: '79' }) }))).toEqual([]);
  });

  test('of a few that are no numbers among many that are, which stay beside', () => {
    const [warning] = warningsOf(profile('took', { readable: written({ integer: '88', decimal: '88' }) }));
    expect(warning?.words).toContain('All but 12 of took are whole numbers');
    expect(warning?.mend).toMatchObject({ add: [{ kind: 'type', to: 'integer', misfit: 'list' }] });
  });

  test('of moments that do not say by whose clocks, with the zone as the mend', () => {
    const [some] = warningsOf(profile('took', { readable: written({ instant: '100', local: '40' }) }));
    expect(some?.words).toContain('40 of took are moments without a zone');
    expect(some?.mend).toMatchObject({ add: [{ kind: 'type', to: 'instant' }] });
    expect(some?.mend && 'add' in some.mend && some.mend.add).toHaveLength(1);
    const [warning] = warningsOf(profile('took', { readable: written({ instant: '100', local: '100' }) }));
    expect(warning?.words).toContain('All of took are moments without a zone');
    expect(warning?.mend).toMatchObject({
      add: [
        { kind: 'type', to: 'instant' },
        { kind: 'derive', name: 'took', making: { kind: 'clock', field: 'took', zone: 'Europe/London' } },
      ],
    });
    // What the source itself writes without one is said until a step puts it right.
    const column = { column: 'at', name: 'at', type: 'instant' as const, read: 'utc' as const };
    const request = { kind: 'intake' as const, columns: [column] };
    const [ofSource] = zoneWarnings({ ...gates, request }, fields, 'Europe/London');
    expect(ofSource?.words).toBe('At is written without a zone, and taken as UTC.');
    const steps = ofSource?.mend && 'add' in ofSource.mend ? [...ofSource.mend.add] : [];
    expect(zoneWarnings({ ...gates, request, steps }, fields, 'Europe/London')).toEqual([]);
    const aware = { ...request, columns: [{ ...column, read: undefined }] };
    expect(zoneWarnings({ ...gates, request: aware }, fields, 'Europe/London')).toEqual([]);
  });

  test('of records that are alike, where nothing tells them all apart', () => {
    const two = fields.slice(0, 2);
    const shared = profile('gate', { distinct: '3' });
    expect(mayBeAlike([profile('id', { distinct: '99' }), shared], two)).toBe(true);
    expect(mayBeAlike([profile('id'), shared], two)).toBe(false);
    expect(mayBeAlike([shared], two)).toBe(false);
    expect(alikeWarning('0', 'scans')).toBeNull();
    const warning = alikeWarning('12', 'scans');
    expect(warning?.words).toBe('12 of the scans are the same in every field as one before them.');
    expect(warning?.mend).toMatchObject({ add: [{ kind: 'distinct', by: [] }] });
  });

  test('but codes with zeros in front stay codes', () => {
    // One is enough, however rare it is: it need not be among the most frequent values.
    const readable = written({ integer: '100', decimal: '100', padded: '1' });
    expect(warningsOf(profile('took', { readable, frequent: [{ value: '7', count: '3' }] }))).toEqual([]);
  });

  test('of a key that is not unique, or blank', () => {
    const [warning] = warningsOf(profile('id', { distinct: '97', readable: null }));
    expect(warning?.words).toContain('3 share theirs with another');
    expect(warning?.mend).toMatchObject({ add: [{ kind: 'distinct', by: ['id'] }] });
    expect(warningsOf(profile('id', { blank: '2', distinct: '98', readable: null }))[0]?.words).toContain(
      '2 of the scans have no id',
    );
    expect(warningsOf(profile('gate', { distinct: '3' }))).toEqual([]);
  });
});

describe('a warning that is accepted', () => {
  const where: Step = { kind: 'where', id: 'step-1', condition: { field: 'gate', test: { op: 'filled' } } };
  const derive: Step = { kind: 'derive', id: 'step-2', name: 'x', making: { kind: 'expression', text: '1' } };
  const blank = (name: string, records: string): Warning[] =>
    stepWarnings(
      { ...derive, name },
      fields,
      fields,
      figures('100', { blank: { [name]: records } }),
      figures('100'),
      'scans',
    );

  test('is put away by what it is about, however the figures change, and no other with it', () => {
    const [first] = blank('x', '31');
    const accepted = [first?.about ?? ''];
    expect(splitWarnings(blank('x', '64'), accepted)).toEqual({ shown: [], putAway: blank('x', '64') });
    expect(splitWarnings(blank('y', '31'), accepted).shown).toHaveLength(1);
    const all = stepWarnings(where, fields, fields, figures('100'), figures('100'), 'scans');
    expect(splitWarnings(all, accepted).shown).toEqual(all);
  });

  test('cannot be one that stands for something that failed', () => {
    const failed: Warning = { words: 'It cannot be done.' };
    expect(splitWarnings([failed], ['', 'undefined'])).toEqual({ shown: [failed], putAway: [] });
  });

  test('is forgotten with its step, so that a later step of that name is warned of; what is about a field stays', () => {
    const accepted = ['step step-1 everything', 'step step-2 blank x', 'text took', 'alike'];
    expect(stillAccepted(accepted, [derive])).toEqual(['step step-2 blank x', 'text took', 'alike']);
    expect(stillAccepted(accepted, [where, derive])).toEqual(accepted);
  });
});
