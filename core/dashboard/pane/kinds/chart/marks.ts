/** How a chart can be drawn. */
export const chartMarks = ['columns', 'bars', 'line', 'pie'] as const;
