import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DemoIds } from '../data-sets.ts';

/* What several dashboards of the demo have. */

type Card = Extract<Dashboard['panes'][number], { against: string }>;

/** A card in the row on top, a quarter wide, and what makes it another. */
export const cardAt = (
  x: number,
  of: Pick<Card, 'id' | 'title' | 'dataSet' | 'measure'>,
  { h = 3, ...more }: Partial<Omit<Card, 'place'>> & { h?: number },
): Card => ({ kind: 'card', ...of, against: 'none', ...more, place: { x, y: 0, w: 3, h } });

/** What the records behind a number of sailings show. */
export const sailingFields = [
  'reference',
  'route',
  'vessel',
  'departs_at',
  'status',
  'delay_minutes',
  'cause',
  'passengers',
];

/** The reader filters of sailings: by route, by vessel, and by when they depart. */
export const sailingScope = (
  { sailings: dataSet }: DemoIds,
  last: { count: number; unit: 'day' | 'month' },
): Dashboard['scope'] => [
  { name: 'route', many: 'routes', offer: 'values', dataSet, field: 'route' },
  { name: 'vessel', many: 'vessels', offer: 'values', dataSet, field: 'vessel' },
  {
    name: 'departing',
    many: 'dates',
    lead: 'departing',
    offer: 'dates',
    dataSet,
    field: 'departs_at',
    initially: { op: 'during', period: { kind: 'last', ...last } },
  },
];
