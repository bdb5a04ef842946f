import type { Field } from '#core/field/field.ts';
import { formatNumber } from '#core/format/format.ts';
import { fieldWords } from '#core/step/kinds.ts';
import type { Step } from '#core/step/schema.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import type { StepFigures } from '#server/shape/records.ts';

/* What looks wrong about a step, and the step that mends it. Pure. */

export interface Warning {
  readonly words: string;
  /** What the button says, and the step that it adds after this one or changes, or all the steps as they are then. */
  readonly mend?:
    | { readonly words: string; readonly step: Step }
    | { readonly words: string; readonly steps: readonly Step[] }
    | undefined;
}

const number = (text: string): string => formatNumber(text, 0);
/** More than this part of blanks is worth a word. */
const manyBlanks = 0.3;

const share = (part: string, whole: string): number => (whole === '0' ? 0 : Number(part) / Number(whole));

/** What a step's own figures say against it. */
export function stepWarnings(
  step: Step,
  before: readonly Field[],
  figures: StepFigures | undefined,
  figuresBefore: StepFigures | undefined,
  many: string,
): Warning[] {
  if (!figures || step.off) return [];
  const warnings: Warning[] = [];
  const label = (name: string): string => fieldWords(name, before);
  if (step.kind === 'where' && figuresBefore && figuresBefore.records !== '0') {
    if (figures.records === '0') warnings.push({ words: 'It keeps nothing.' });
    else if (figures.records === figuresBefore.records) warnings.push({ words: 'It keeps everything.' });
  }
  if (step.kind === 'type' && figures.lost !== '0') {
    const listed = step.misfit === 'list';
    warnings.push({
      words: `${number(figures.lost)} values of ${label(step.field)} cannot be read so and are blank now.`,
      ...(listed ? {} : { mend: { words: 'Keep them beside it', step: { ...step, misfit: 'list' } } }),
    });
  }
  if (step.kind === 'lookUp' && (step.mode === 'one' || step.mode === 'first')) {
    const [first] = step.take;
    const blank = first ? (figures.blank[first.as] ?? '0') : '0';
    if (share(blank, figures.records) > 0)
      warnings.push({
        words: `${number(blank)} ${many} have no match; what is looked up is blank for them.`,
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
      mend: { words: 'Keep them', step: { ...step, keepEmpty: true } },
    });
  if (step.kind === 'derive' || step.kind === 'spread')
    for (const [name, blank] of Object.entries(figures.blank))
      if (share(blank, figures.records) > manyBlanks && figures.records !== '0')
        warnings.push({
          words: `“${name}” is blank for ${number(blank)} of ${number(figures.records)} ${many}.`,
        });
  return warnings;
}

/** Numbers, dates and moments that are kept as text, and a key that is not one: what the profiles say. */
export function profileWarnings(
  profiles: readonly FieldProfile[],
  fields: readonly Field[],
  key: string | undefined,
  many: string,
  stepId: (what: string) => string,
): Warning[] {
  const warnings: Warning[] = [];
  for (const profile of profiles) {
    const field = fields.find(({ name }) => name === profile.name);
    if (!field) continue;
    const filled = BigInt(profile.records) - BigInt(profile.blank);
    const label = fieldWords(field.name, fields);
    if (field.type === 'text' && profile.readable && filled > 0n) {
      const all = (['integer', 'decimal', 'date', 'instant'] as const).find(
        (type) => BigInt(profile.readable?.[type] ?? '0') === filled,
      );
      if (all) {
        const what = { integer: 'a whole number', decimal: 'a number', date: 'a date', instant: 'a moment' }[
          all
        ];
        const isPadded =
          (all === 'integer' || all === 'decimal') &&
          profile.frequent.some(({ value }) => /^[+-]?0\d/.test(String(value)));
        if (!isPadded)
          warnings.push({
            words: `Every ${label} is ${what}, kept as text: 10 would sort before 2.`,
            mend: {
              words: `Read ${label} as ${what}`,
              step: { kind: 'type', id: stepId(field.name), field: field.name, to: all, misfit: 'blank' },
            },
          });
      }
    }
    if (field.name === key && !profile.about && BigInt(profile.distinct) < filled)
      warnings.push({
        words: `${label} is said to identify ${many}, and ${number(String(filled - BigInt(profile.distinct)))} share theirs with another.`,
        mend: {
          words: 'Keep one of each',
          step: { kind: 'distinct', id: stepId('key'), by: [field.name], order: [] },
        },
      });
    if (field.name === key && profile.blank !== '0')
      warnings.push({
        words: `${number(profile.blank)} ${many} have no ${label}, which is said to identify them.`,
      });
  }
  return warnings;
}
