/** Values in one test. More is a list that belongs in a data set. */
export const mostValues = 1000;
/** Deeper nesting than a person can read is refused. */
export const deepest = 8;
