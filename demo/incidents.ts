import { followUpData, followUpStep } from '#core/change/follow-up-data.ts';
import { recordPlace } from '#core/change/place.ts';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { noMatchSubject } from '#core/dataset/step/warning-subjects.ts';
import { addFollowUp } from '#server/store/follow-ups.ts';
import type { DemoDataSet } from './data-sets.ts';

/** The ids of what is followed up of incidents. */
export interface FollowedIds {
  /** The source that what people note belongs to. */
  readonly source: string;
  readonly incidents: string;
  readonly notes: string;
  readonly toSettle: string;
}

/** As many days as an incident may lie before somebody has to look at it. */
const quietDays = 7;

/** Incidents that are not settled, with what people noted of each and since when nobody has; and those notes as a data set. */
export function incidentsToSettle(incidents: DataSet, ids: FollowedIds): DemoDataSet[] {
  const open = { field: 'settled_at', test: { op: 'blank' as const } };
  const keeps = { kind: 'where' as const, id: 'step-1', condition: open };
  const notes = followUpData(ids.source, ids.incidents, incidents);
  const looksUp = followUpStep({ ...incidents, steps: [keeps] }, ids.notes);
  if (!notes || !looksUp) throw new Error('the demo’s incidents have no key');
  const quiet = {
    kind: 'derive' as const,
    id: 'step-3',
    name: 'quiet_since',
    making: { kind: 'expression' as const, text: 'COALESCE(touched_at, reported_at)' },
  };
  const definition = withOutcome(
    {
      ...incidents,
      start: incidents.fields,
      steps: [keeps, looksUp, quiet],
      // Of most incidents nobody has noted anything.
      acceptedWarnings: [noMatchSubject(looksUp.id)],
      subsets: [
        {
          name: 'untouched',
          label: `incidents nobody has touched for ${quietDays} days`,
          where: {
            field: 'quiet_since',
            test: { op: 'during', period: { kind: 'olderThan', count: quietDays, unit: 'day' } },
          },
        },
      ],
    },
    new Map([[ids.notes, notes]]),
  );
  const moment = { kind: 'moment' as const, style: 'short' as const };
  const labels: Readonly<Record<string, Partial<DataSet['fields'][number]>>> = {
    quiet_since: { label: 'Quiet since', format: moment },
    touched_at: { format: moment },
    settled_at: { hidden: true },
  };
  return [
    { id: ids.notes, name: 'Incident follow-ups', definition: notes },
    {
      id: ids.toSettle,
      name: 'Incidents to settle',
      definition: {
        ...definition,
        fields: definition.fields.map((field) => ({ ...field, ...labels[field.name] })),
      },
    },
  ];
}

/** What was noted of some of them already, oldest first. */
const firstNotes = [
  { state: 'waiting', note: 'Asked the yard for the part; they answer after the weekend.' },
  { state: 'open', note: 'The passenger was rung up twice, and does not answer.' },
  { state: 'waiting', note: 'The berth is inspected at the next spring tide.' },
] as const;

/** Notes it of the incidents with these keys. */
export async function noteIncidents(
  incidents: readonly { readonly key: string; readonly title: string }[],
  of: Pick<Parameters<typeof addFollowUp>[0], 'deskId' | 'dashboardId' | 'pane' | 'by'>,
  { id, definition }: DemoDataSet,
): Promise<void> {
  for (const [at, note] of firstNotes.entries()) {
    const incident = incidents[at];
    if (!incident) continue;
    await addFollowUp({
      ...of,
      ...incident,
      ...note,
      place: recordPlace(id, definition),
      dataSetId: id,
      noun: definition.noun.one,
      due: null,
      givenTo: null,
    });
  }
}
