import type { Dashboard } from '#core/dashboard/schema.ts';
import type { ServiceIds } from '../services.ts';
import { cardAt } from './parts.ts';

/** What the vessels ask of the stores, and what becomes of it. */
export function requisitions(ids: Pick<ServiceIds, 'requisitions' | 'lines'>): Dashboard {
  return {
    version: 4,
    title: 'Requisitions',
    scope: [
      { name: 'vessel', many: 'vessels', offer: 'values', dataSet: ids.requisitions, field: 'Vessel' },
      {
        name: 'state',
        many: 'states',
        offer: 'values',
        dataSet: ids.requisitions,
        field: 'State',
      },
    ],
    panes: [
      cardAt(
        0,
        { id: 'open', title: 'To be approved or refused', dataSet: ids.requisitions, measure: 'open' },
        { when: 'any', behind: ['Number', 'Vessel', 'Depot', 'RaisedOn', 'Note'] },
      ),
      {
        kind: 'chart',
        id: 'states',
        title: 'By vessel and state',
        dataSet: ids.requisitions,
        mark: 'bars',
        measure: 'count',
        by: { field: 'Vessel' },
        split: 'State',
        order: 'label',
        place: { x: 3, y: 0, w: 9, h: 6 },
      },
      {
        kind: 'table',
        id: 'requisitions',
        title: 'Requisitions, latest first',
        dataSet: ids.requisitions,
        columns: [
          { field: 'Number', width: 110 },
          { field: 'Vessel', width: 130 },
          { field: 'Depot', width: 90 },
          { field: 'State', width: 120 },
          { field: 'RaisedOn', width: 100 },
          { field: 'Note' },
        ],
        order: [{ by: 'RaisedOn', descending: true }],
        actions: ['approve', 'refuse'],
        inPlace: ['Note'],
        pageSize: 12,
        held: 1,
        place: { x: 0, y: 6, w: 8, h: 14 },
      },
      {
        kind: 'table',
        id: 'lines',
        title: 'Lines of the requisition',
        dataSet: ids.lines,
        columns: [
          { field: 'Requisition', width: 110 },
          { field: 'Part', width: 90 },
          { field: 'Quantity', width: 80 },
          { field: 'UnitPrice', width: 110 },
        ],
        order: [{ by: 'Part' }],
        actions: ['add', 'remove'],
        inPlace: ['Quantity'],
        pageSize: 12,
        place: { x: 8, y: 6, w: 4, h: 14 },
      },
      {
        kind: 'form',
        id: 'raise',
        title: 'Raise a requisition',
        dataSet: ids.requisitions,
        about: 'new',
        action: 'raise',
        place: { x: 0, y: 20, w: 7, h: 17 },
      },
      {
        kind: 'chart',
        id: 'parts',
        title: 'Parts that are asked for',
        dataSet: ids.lines,
        mark: 'bars',
        measure: 'asked',
        by: { field: 'Part' },
        order: 'value',
        place: { x: 7, y: 20, w: 5, h: 17 },
      },
    ],
  };
}
