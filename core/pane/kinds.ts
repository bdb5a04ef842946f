export const paneKinds = ['card', 'chart', 'table', 'detail'] as const;
export type PaneKind = (typeof paneKinds)[number];
export const chartMarks = ['columns', 'bars', 'line', 'pie'] as const;
export type ChartMark = (typeof chartMarks)[number];
export const pageSizes = [10, 20, 50, 100] as const;
