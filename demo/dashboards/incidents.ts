import type { Dashboard } from '#core/dashboard/schema.ts';
import type { FollowedIds } from '../incidents.ts';
import { cardAt } from './parts.ts';

const incidentFields = ['kind', 'severity', 'sailing', 'reported_at', 'quiet_since', 'note'];

/** What has happened and is not settled: who has waited longest without anybody touching it. */
export function incidents({ toSettle: dataSet }: FollowedIds): Dashboard {
  return {
    version: 4,
    title: 'Incidents to settle',
    scope: [
      { name: 'severity', many: 'severities', offer: 'values', dataSet, field: 'severity' },
      { name: 'what', many: 'kinds', lead: 'of', offer: 'values', dataSet, field: 'kind' },
      {
        name: 'reported',
        many: 'dates',
        lead: 'reported',
        offer: 'dates',
        dataSet,
        field: 'reported_at',
      },
    ],
    panes: [
      cardAt(0, { id: 'open', title: 'Not settled', dataSet, measure: 'count' }, { behind: incidentFields }),
      cardAt(
        3,
        { id: 'quiet', title: 'Untouched for 7 days', dataSet, measure: 'count' },
        { subset: 'untouched', behind: incidentFields },
      ),
      {
        kind: 'next-one',
        id: 'longest',
        title: 'Quiet the longest',
        dataSet,
        order: [{ by: 'quiet_since' }],
        fields: ['severity', 'sailing', 'quiet_since'],
        place: { x: 6, y: 0, w: 6, h: 3 },
      },
      {
        kind: 'table',
        id: 'untouched',
        title: 'Nobody has touched these for 7 days, longest first',
        dataSet,
        subset: 'untouched',
        columns: [
          { field: 'kind', width: 220 },
          { field: 'severity', width: 110 },
          { field: 'sailing', width: 110 },
          { field: 'reported_at', width: 130 },
          { field: 'quiet_since', width: 130 },
          { field: 'follow_up_state', width: 110 },
          { field: 'note' },
        ],
        order: [{ by: 'quiet_since' }],
        pageSize: 12,
        held: 1,
        place: { x: 0, y: 3, w: 12, h: 13 },
      },
      {
        kind: 'chart',
        id: 'kinds',
        title: 'Not settled, by what happened and how bad it is',
        dataSet,
        mark: 'bars',
        measure: 'count',
        by: { field: 'kind' },
        split: 'severity',
        order: 'value',
        behind: incidentFields,
        place: { x: 0, y: 16, w: 6, h: 9 },
      },
      {
        kind: 'table',
        id: 'followed',
        title: 'Somebody is on these',
        dataSet,
        keeping: { field: 'touched_at', test: { op: 'filled' } },
        columns: [
          { field: 'kind', width: 200 },
          { field: 'follow_up_state', width: 110 },
          { field: 'touched_at', width: 130 },
          { field: 'touched_by' },
        ],
        order: [{ by: 'touched_at', descending: true }],
        pageSize: 12,
        place: { x: 6, y: 16, w: 6, h: 9 },
      },
    ],
  };
}
