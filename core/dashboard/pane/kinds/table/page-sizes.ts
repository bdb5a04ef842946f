/** How many records a page of a table may have, to choose from. */
export const pageSizes = [10, 20, 50, 100] as const;
