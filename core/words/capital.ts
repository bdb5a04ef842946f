/** A sentence or heading begins with a capital; the rest stays as it is. */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
