import { keyAndTitle } from '#core/dataset/naming.ts';
import type { PaneUse } from '../../use.ts';
import type { Lane, TracePane } from './schema.ts';

/** The fields that are asked of a lane's events. */
export const laneFields = ({ at, clock, outcome, words, fields }: Lane): string[] => [
  ...new Set([at, ...[clock, outcome, words].filter((name) => name !== undefined), ...fields]),
];

/** A lane shows the events of the case that is looked at, whatever the scope. */
export const trace = ({ about, lanes }: TracePane): readonly PaneUse[] =>
  lanes.map((lane) => {
    const { dataSet, subset, keeping, when, waitsFor } = lane;
    const shown = [...laneFields(lane), lane.case];
    return {
      dataSet,
      subset,
      keeping,
      when,
      waitsFor,
      follows: 'picks',
      about: { meaning: about.meaning, field: lane.case },
      fields: shown,
      measures: [],
      shows: (of) => [...shown, ...keyAndTitle(of)],
      hasNumbers: false,
    };
  });
