import type { Dashboard } from '#core/dashboard/schema.ts';
import type { ServiceIds } from './services.ts';

/* Dashboards over logs, what is sent to us, and services. */

const scanFields = ['at', 'gate', 'passage_ref', 'outcome', 'took_ms'];
const requestFields = ['at', 'passage_ref', 'status', 'agent'];

const card = (
  id: string,
  title: string,
  { dataSet, measure, behind }: { dataSet: string; measure: string; behind: string[] },
  x: number,
) => ({
  kind: 'card' as const,
  id,
  title,
  dataSet,
  measure,
  against: 'none' as const,
  behind,
  place: { x, y: 0, w: 3, h: 3 },
});

export function gateTraffic(ids: ServiceIds): Dashboard {
  return {
    version: 2,
    title: 'Gate traffic',
    scope: [
      { name: 'gate', many: 'gates', offer: 'values', dataSet: ids.scans, field: 'gate' },
      {
        name: 'scanned',
        many: 'times',
        lead: 'scanned',
        offer: 'dates',
        dataSet: ids.scans,
        field: 'at',
        initially: { op: 'during', period: { kind: 'last', count: 2, unit: 'day' } },
      },
    ],
    panes: [
      card('scans', 'Scans', { dataSet: ids.scans, measure: 'count', behind: scanFields }, 0),
      card('refused', 'Refused', { dataSet: ids.scans, measure: 'refused', behind: scanFields }, 3),
      card(
        'quick',
        'Nine in ten are quicker than',
        { dataSet: ids.scans, measure: 'slow', behind: scanFields },
        6,
      ),
      card('requests', 'Web requests', { dataSet: ids.access, measure: 'count', behind: requestFields }, 9),
      {
        kind: 'chart',
        id: 'per-hour',
        title: 'Scans, hour by hour',
        dataSet: ids.scans,
        mark: 'columns',
        measure: 'count',
        by: { field: 'at', unit: 'hour' },
        split: 'outcome',
        order: 'label',
        behind: scanFields,
        place: { x: 0, y: 3, w: 8, h: 7 },
      },
      {
        kind: 'chart',
        id: 'by-gate',
        title: 'Refused, gate by gate',
        dataSet: ids.scans,
        mark: 'bars',
        measure: 'refused',
        by: { field: 'gate' },
        order: 'value',
        behind: scanFields,
        place: { x: 8, y: 3, w: 4, h: 12 },
      },
      {
        kind: 'table',
        id: 'latest',
        title: 'Scans, latest first',
        dataSet: ids.scans,
        columns: [
          { field: 'at', width: 140 },
          { field: 'gate', width: 90 },
          { field: 'passage_ref', width: 130 },
          { field: 'outcome', width: 120 },
          { field: 'took_ms', width: 90 },
          { field: 'scanner_clock', width: 170 },
        ],
        order: [{ by: 'at', descending: true }],
        pageSize: 15,
        place: { x: 0, y: 10, w: 8, h: 12 },
      },
      {
        kind: 'chart',
        id: 'status',
        title: 'Web answers by status',
        dataSet: ids.access,
        mark: 'columns',
        measure: 'count',
        by: { field: 'status' },
        order: 'value',
        behind: requestFields,
        place: { x: 8, y: 15, w: 4, h: 7 },
      },
    ],
  };
}

export function passageTrace(ids: ServiceIds): Dashboard {
  const trace = (
    id: string,
    title: string,
    dataSet: string,
    y: number,
    columns: readonly { field: string; width?: number }[],
  ) => ({
    kind: 'table' as const,
    id,
    title,
    dataSet,
    columns: [...columns],
    order: [{ by: 'at', descending: true }],
    pageSize: 10,
    place: { x: 5, y, w: 7, h: 7 },
  });
  return {
    version: 2,
    title: 'Passage trace',
    scope: [
      { name: 'passage', many: 'passage', offer: 'text', dataSet: ids.passages, field: 'passage_ref' },
      {
        name: 'state',
        many: 'states',
        lead: 'that is',
        offer: 'values',
        dataSet: ids.passages,
        field: 'state',
      },
    ],
    panes: [
      {
        kind: 'table',
        id: 'passages',
        title: 'Passages, latest first',
        dataSet: ids.passages,
        columns: [
          { field: 'passage_ref', width: 130 },
          { field: 'sailing', width: 100 },
          { field: 'state', width: 110 },
          { field: 'booked_at', width: 120 },
        ],
        order: [{ by: 'booked_at', descending: true }],
        pageSize: 15,
        place: { x: 0, y: 0, w: 5, h: 12 },
      },
      {
        kind: 'detail',
        id: 'passage',
        title: 'The passage',
        dataSet: ids.passages,
        fields: [
          'passage_ref',
          'state',
          'sailing',
          'terminal',
          'booked_at',
          'fare',
          'vehicle',
          'traveller_name',
          'traveller_tickets',
        ],
        place: { x: 0, y: 12, w: 5, h: 9 },
      },
      trace('requests', 'At the web server', ids.access, 0, [
        { field: 'at', width: 140 },
        { field: 'passage_ref', width: 130 },
        { field: 'status', width: 80 },
        { field: 'agent' },
      ]),
      trace('events', 'In the passage service', ids.events, 7, [
        { field: 'at', width: 140 },
        { field: 'passage_ref', width: 130 },
        { field: 'body' },
        { field: 'severity', width: 110 },
      ]),
      trace('scans', 'At the gate', ids.scans, 14, [
        { field: 'at', width: 140 },
        { field: 'passage_ref', width: 130 },
        { field: 'gate', width: 90 },
        { field: 'outcome', width: 120 },
        { field: 'took_ms', width: 90 },
      ]),
    ],
  };
}
