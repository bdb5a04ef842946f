/** How deep the records of a table are grouped. */
export const mostGroups = 3;
