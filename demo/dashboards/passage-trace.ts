import type { Dashboard } from '#core/dashboard/schema.ts';
import type { ServiceIds } from '../services.ts';

/** One passage, and what happened to it. */
export function passageTrace(ids: ServiceIds): Dashboard {
  return {
    version: 4,
    title: 'Passage trace',
    scope: [
      { name: 'passage', many: 'passage', offer: 'text', dataSet: ids.passages, field: 'passage_ref' },
      {
        name: 'state',
        many: 'states',
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
          { field: 'passage_ref', width: 110 },
          { field: 'state', width: 110 },
          { field: 'booked_at', width: 130 },
        ],
        order: [{ by: 'booked_at', descending: true }],
        pageSize: 12,
        place: { x: 0, y: 0, w: 4, h: 13 },
      },
      {
        kind: 'trace',
        id: 'trace',
        title: 'What happened to it',
        about: { meaning: 'passage', noun: 'passage' },
        lanes: [
          {
            name: 'Web server',
            dataSet: ids.access,
            case: 'passage_ref',
            at: 'at',
            words: 'method',
            outcome: 'status',
            fields: ['agent', 'bytes'],
          },
          {
            name: 'Passage service',
            dataSet: ids.events,
            case: 'passage_ref',
            at: 'at',
            outcome: 'severity',
            words: 'body',
            fields: ['sailing'],
          },
          {
            name: 'Gate',
            dataSet: ids.scans,
            case: 'passage_ref',
            at: 'at',
            clock: 'scanner_clock',
            outcome: 'outcome',
            words: 'gate',
            fields: ['took_ms'],
            link: 'https://gates.skerry.example/scans{?passage_ref,from,to}',
          },
        ],
        expects: [{ lane: 2, after: 0, minutes: 30 }],
        span: 15,
        place: { x: 4, y: 0, w: 8, h: 13 },
      },
      {
        kind: 'detail',
        id: 'passage',
        title: 'The passage',
        dataSet: ids.passages,
        actions: ['move', 'cancel'],
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
        place: { x: 0, y: 13, w: 4, h: 10 },
      },
      {
        kind: 'table',
        id: 'scans',
        title: 'Scans at the gates',
        dataSet: ids.scans,
        columns: [
          { field: 'at', width: 140 },
          { field: 'passage_ref', width: 130 },
          { field: 'gate', width: 90 },
          { field: 'outcome', width: 120 },
          { field: 'took_ms', width: 90 },
        ],
        order: [{ by: 'at', descending: true }],
        pageSize: 10,
        place: { x: 4, y: 13, w: 8, h: 10 },
      },
    ],
  };
}
