/** Calendar units; weeks are ISO 8601. */
export const units = ['hour', 'day', 'week', 'month', 'quarter', 'year'] as const;
export type Unit = (typeof units)[number];
