/** What can stand below a column. */
export const footings = ['sum', 'average', 'median', 'least', 'greatest', 'distinct'] as const;
export type Footing = (typeof footings)[number];
