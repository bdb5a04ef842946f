import type { Dashboard } from '#core/dashboard/schema.ts';
import type { ServiceIds } from '../services.ts';
import { cardAt } from './parts.ts';

const scanFields = ['at', 'gate', 'passage_ref', 'outcome', 'took_ms'];
const requestFields = ['at', 'passage_ref', 'status', 'agent'];

/** What passes the gates, and how the scanners are. */
export function gateTraffic(ids: ServiceIds): Dashboard {
  return {
    version: 4,
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
      cardAt(
        0,
        { id: 'scans', title: 'Scans', dataSet: ids.scans, measure: 'count' },
        { behind: scanFields },
      ),
      cardAt(
        3,
        { id: 'refused', title: 'Refused', dataSet: ids.scans, measure: 'refused' },
        { behind: scanFields },
      ),
      cardAt(
        6,
        { id: 'quick', title: 'Nine in ten are quicker than', dataSet: ids.scans, measure: 'slow' },
        { behind: scanFields },
      ),
      cardAt(
        9,
        { id: 'requests', title: 'Web requests', dataSet: ids.access, measure: 'count' },
        { behind: requestFields },
      ),
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
