import type { DataSet } from '#core/dataset/schema.ts';
import type { CarryOn } from '#core/dataset/step/follow-names.ts';
import type { shape } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';
import { calledAt } from '#core/words/step.ts';
import type { StepFigures } from '#server/shape/records.ts';
import type { useProfiles } from './use-shape.ts';
import { alikeWarning, profileWarnings, stepWarnings, type Warning, zoneWarnings } from './warnings.ts';

const carriedWarning = ({ from, to, steps, changed }: CarryOn): Warning => ({
  words: `“${from}” is called “${to}” now.`,
  mend: {
    words: changed === 1 ? `Read “${to}” here` : `Read “${to}” in all ${changed} steps that read “${from}”`,
    steps,
  },
});

/** The warnings of each step, first those of the records as the source gives them. What the profiles say stands at the step shown. */
export function warningsOf({
  definition,
  steps,
  shaped,
  figures,
  failures,
  profiles,
  shown,
  carried,
  zone,
  alike = '0',
}: {
  definition: DataSet;
  steps: readonly Step[];
  shaped: ReturnType<typeof shape>;
  figures: readonly (StepFigures | undefined)[];
  failures: readonly (Problem | null)[];
  profiles: ReturnType<typeof useProfiles>;
  shown: number;
  carried: CarryOn | null;
  zone: string;
  /** How many of the records shown are alike with one before them. */
  alike: string | undefined;
}): Warning[][] {
  const called = (at: number): string => calledAt(steps, at, definition.noun.many);
  const fields = shaped.fields[shown] ?? [];
  const repeated = alikeWarning(alike, called(shown));
  const ofProfiles = [
    ...(shown === 0 ? zoneWarnings(definition, fields, zone) : []),
    ...(repeated ? [repeated] : []),
    ...profileWarnings([...profiles.values()], fields, {
      key: shown === steps.length ? definition.key : undefined,
      many: called(shown),
      zone,
    }),
  ].slice(0, 4);
  return [
    shown === 0 ? ofProfiles : [],
    ...steps.map((step, at) => [
      // What fails at a step fails at those after it too; it is said where it begins.
      ...(failures[at + 1] && !failures[at] ? [{ words: capital(failures[at + 1]?.why ?? '') }] : []),
      ...(carried?.at === at ? [carriedWarning(carried)] : []),
      ...stepWarnings(
        step,
        shaped.fields[at] ?? [],
        shaped.fields[at + 1] ?? [],
        figures[at + 1],
        figures[at],
        called(at + 1),
      ),
      ...(shown === at + 1 ? ofProfiles : []),
    ]),
  ];
}
