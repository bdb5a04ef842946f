export const chartMarks = ['columns', 'bars', 'line', 'pie'] as const;
export const pageSizes = [10, 20, 50, 100] as const;
