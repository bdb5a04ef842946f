/** What the warning is about that some records find nothing in a look-up; one who accepts it says so by this. */
export const noMatchSubject = (stepId: string): string => `step ${stepId} no match`;
