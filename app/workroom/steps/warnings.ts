import type { DataSet } from '#core/dataset/schema.ts';
import { fieldWords } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { noMatchSubject } from '#core/dataset/step/warning-subjects.ts';
import type { Field } from '#core/value/field/field.ts';
import { someOf } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { capital } from '#core/words/capital.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import type { StepFigures } from '#server/shape/records.ts';

/* What looks wrong about a step, and the step that mends it. Pure. */

export interface Warning {
  readonly words: string;
  /** What it is about, the same as long as that is: so that one that is accepted can be put away. Absent where that cannot be. */
  readonly about?: string;
  /** What the button says, and the steps that it adds after this one, the one that it changes, or all as they are then. */
  readonly mend?:
    | { readonly words: string; readonly step: Step }
    | { readonly words: string; readonly add: readonly Step[] }
    | { readonly words: string; readonly steps: readonly Step[] }
    | undefined;
}

const number = (text: string): string => formatNumber(text, 0);
/** More than this part of blanks is worth a word. */
const manyBlanks = 0.3;

const share = (part: string, whole: string): number => (whole === '0' ? 0 : Number(part) / Number(whole));

/** A text that is often blank can say so; what a blank number or date should be, nobody can guess. */
function fillMend(name: string, fields: readonly Field[]): Warning['mend'] {
  if (fields.find((field) => field.name === name)?.type !== 'text') return undefined;
  const step: Step = { kind: 'fill', id: 'blanks', field: name, with: { kind: 'value', value: 'not known' } };
  return { words: 'Say “not known” for them', add: [step] };
}

/** What a step's own figures say against it; `after` are the fields that it leaves. */
export function stepWarnings(
  step: Step,
  before: readonly Field[],
  after: readonly Field[],
  figures: StepFigures | undefined,
  figuresBefore: StepFigures | undefined,
  many: string,
): Warning[] {
  if (!figures || step.off) return [];
  const warnings: Warning[] = [];
  const label = (name: string): string => fieldWords(name, before);
  if (step.kind === 'where' && figuresBefore && figuresBefore.records !== '0') {
    const mend = { words: 'Skip', step: { ...step, off: true } };
    if (figures.records === '0')
      warnings.push({ words: 'It keeps nothing.', about: `step ${step.id} nothing`, mend });
    else if (figures.records === figuresBefore.records)
      warnings.push({ words: 'It keeps everything.', about: `step ${step.id} everything`, mend });
  }
  if (step.kind === 'type' && figures.lost !== '0') {
    const listed = step.misfit === 'list';
    warnings.push({
      words: `${someOf(figures.lost, `values of ${label(step.field)}`, 'cannot be read like that and is', 'cannot be read like that and are')} blank now.`,
      about: `step ${step.id} lost`,
      ...(listed ? {} : { mend: { words: 'Keep them beside it', step: { ...step, misfit: 'list' } } }),
    });
  }
  if (step.kind === 'lookUp' && (step.mode === 'one' || step.mode === 'first')) {
    const [first] = step.take;
    const blank = first ? (figures.blank[first.as] ?? '0') : '0';
    if (share(blank, figures.records) > 0)
      warnings.push({
        words: `${someOf(blank, many, 'has no match; what is looked up is blank for it', 'have no match; what is looked up is blank for them')}.`,
        about: noMatchSubject(step.id),
        mend: first && fillMend(first.as, after),
      });
  }
  if (
    step.kind === 'unfold' &&
    !step.keepEmpty &&
    figuresBefore &&
    BigInt(figures.records) < BigInt(figuresBefore.records)
  )
    warnings.push({
      words: 'Records without an item are dropped.',
      about: `step ${step.id} dropped`,
      mend: { words: 'Keep them', step: { ...step, keepEmpty: true } },
    });
  if (step.kind === 'derive' || step.kind === 'spread')
    for (const [name, blank] of Object.entries(figures.blank))
      if (share(blank, figures.records) > manyBlanks && figures.records !== '0')
        warnings.push({
          words: `“${name}” is blank for ${number(blank)} of ${number(figures.records)} ${many}.`,
          about: `step ${step.id} blank ${name}`,
          mend: fillMend(name, after),
        });
  return warnings;
}

/** What most of a text field is written as: said of it when so large a part is, the few others stay as they were. */
const nearlyShare = 0.8;

const readAs = {
  integer: { one: 'a whole number', several: 'whole numbers' },
  decimal: { one: 'a number', several: 'numbers' },
  date: { one: 'a date', several: 'dates' },
  instant: { one: 'a moment', several: 'moments' },
} as const;
const readAsTypes = Object.keys(readAs) as (keyof typeof readAs)[];

/** A moment that was read as UTC, taken as one by the clocks of a zone. */
const byClocks = (field: string, zone: string): Step => ({
  kind: 'derive',
  id: `clock ${field}`,
  name: field,
  making: { kind: 'clock', field, zone },
});

/** Numbers, dates and moments that are kept as text. */
function textWarning(profile: FieldProfile, label: string, zone: string): Warning | null {
  const filled = BigInt(profile.records) - BigInt(profile.blank);
  if (!profile.readable || filled === 0n) return null;
  const count = (as: keyof typeof readAs | 'local' | 'padded'): bigint =>
    BigInt(profile.readable?.[as] ?? '0');
  const isMost = (type: keyof typeof readAs): boolean =>
    count(type) === filled || Number(count(type)) / Number(filled) >= nearlyShare;
  const to = readAsTypes.find((type) => count(type) === filled) ?? readAsTypes.find(isMost);
  if (!to) return null;
  const isNumber = to === 'integer' || to === 'decimal';
  if (isNumber && count('padded') > 0n) return null;
  const others = filled - count(to);
  const about = `text ${profile.name}`;
  const misfit = others > 0n ? ('list' as const) : ('blank' as const);
  const type: Step = { kind: 'type', id: 'type', field: profile.name, to, misfit };
  const reading = `Read ${label} as ${readAs[to].one}`;
  const sorted = isNumber ? ': 10 would sort before 2' : '';
  if (to === 'instant' && count('local') > 0n) {
    // Those that have a zone must not be moved by the clocks of another.
    const isAll = count('local') === filled;
    return {
      words: `${isAll ? 'All' : number(String(count('local')))} of ${label} are moments without a zone, kept as text.`,
      about,
      mend: isAll
        ? { words: `${reading}, by the clocks of ${zone}`, add: [type, byClocks(profile.name, zone)] }
        : { words: `${reading}, those without a zone as UTC`, add: [type] },
    };
  }
  return others > 0n
    ? {
        words: `All but ${number(String(others))} of ${label} are ${readAs[to].several}, kept as text${sorted}.`,
        about,
        mend: { words: `${reading}, the others beside it`, add: [type] },
      }
    : {
        words: `Every ${label} is ${readAs[to].one}, kept as text${sorted}.`,
        about,
        mend: { words: reading, add: [type] },
      };
}

/** What the profiles of the records say: types kept as text, and a key that is none. */
export function profileWarnings(
  profiles: readonly FieldProfile[],
  fields: readonly Field[],
  { key, many, zone }: { key: string | undefined; many: string; zone: string },
): Warning[] {
  return profiles.flatMap((profile): Warning[] => {
    const field = fields.find(({ name }) => name === profile.name);
    if (!field) return [];
    const label = fieldWords(field.name, fields);
    const text = field.type === 'text' ? textWarning(profile, label, zone) : null;
    if (field.name !== key) return text ? [text] : [];
    const filled = BigInt(profile.records) - BigInt(profile.blank);
    const shared = filled - BigInt(profile.distinct);
    return [
      ...(text ? [text] : []),
      ...(!profile.about && shared > 0n
        ? [
            {
              words: `${label} is said to identify ${many}, and ${number(String(shared))} ${shared === 1n ? 'shares its own' : 'share theirs'} with another.`,
              about: `shared ${field.name}`,
              mend: {
                words: 'Keep one of each',
                add: [{ kind: 'distinct' as const, id: 'key', by: [field.name], order: [] }],
              },
            },
          ]
        : []),
      ...(profile.blank === '0'
        ? []
        : [
            {
              words: `${someOf(profile.blank, many, 'has', 'have')} no ${label}, which is said to identify them.`,
              about: `none ${field.name}`,
              mend: {
                words: 'Leave them out',
                add: [
                  {
                    kind: 'where' as const,
                    id: 'no-key',
                    condition: { field: field.name, test: { op: 'filled' as const } },
                  },
                ],
              },
            },
          ]),
    ];
  });
}

/** Whether records could be alike in every field: nothing tells them all apart. Unknown while a field is not described yet. */
export function mayBeAlike(profiles: readonly FieldProfile[], fields: readonly Field[]): boolean {
  return (
    fields.length > 0 &&
    fields.every(({ name, type }) => {
      const profile = profiles.find((each) => each.name === name);
      return (
        profile !== undefined && type !== 'nested' && (profile.about || profile.distinct !== profile.records)
      );
    })
  );
}

export function alikeWarning(alike: string, many: string): Warning | null {
  if (alike === '0') return null;
  return {
    words: `${someOf(alike, many, 'is the same in every field as one before it', 'are the same in every field as one before them')}.`,
    about: 'alike',
    mend: { words: 'Keep one of each', add: [{ kind: 'distinct', id: 'alike', by: [], order: [] }] },
  };
}

/** Moments that the source writes without a zone, and that no step has put right. */
export function zoneWarnings(
  { request, steps = [] }: DataSet,
  fields: readonly Field[],
  zone: string,
): Warning[] {
  return request.columns.flatMap(({ name, read, time }): Warning[] => {
    const isMended = steps.some(
      (step) => step.kind === 'derive' && step.making.kind === 'clock' && step.making.field === name,
    );
    if (isMended || !(read === 'utc' || time === 'local') || !fields.some((field) => field.name === name))
      return [];
    const label = fieldWords(name, fields);
    return [
      {
        words: `${capital(label)} is written without a zone, and taken as UTC.`,
        about: `zone ${name}`,
        mend: { words: `Take it by the clocks of ${zone}`, add: [byClocks(name, zone)] },
      },
    ];
  });
}

/** Warnings in two parts: those to be shown, and those that are accepted. */
export function splitWarnings(
  warnings: readonly Warning[],
  accepted: readonly string[],
): { shown: Warning[]; putAway: Warning[] } {
  const isAccepted = ({ about }: Warning): boolean => about !== undefined && accepted.includes(about);
  return { shown: warnings.filter((each) => !isAccepted(each)), putAway: warnings.filter(isAccepted) };
}

/** What is still about a step that is there, or about no step: another step may get the name of one that is gone. */
export const stillAccepted = (accepted: readonly string[], steps: readonly Step[]): string[] =>
  accepted.filter((about) => {
    const of = /^step (\S+) /.exec(about)?.[1];
    return of === undefined || steps.some(({ id }) => id === of);
  });
