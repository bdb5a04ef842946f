const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/** A day as a person in Britain types it, as ISO 8601: "23 Nov 2026", "23/11/2026", "2026-11-23"; null where it is none. */
export function typedDay(text: string, thisYear: string): string | null {
  const written = text.trim().toLowerCase();
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(written);
  const numbers = /^(\d{1,2})[/. ](\d{1,2})(?:[/. ](\d{4}))?$/.exec(written);
  const named = /^(\d{1,2}) ?([a-z]{3})[a-z]*\.?(?: (\d{4}))?$/.exec(written);
  const parts = iso
    ? [iso[1], iso[2], iso[3]]
    : numbers
      ? [numbers[3] ?? thisYear, numbers[2], numbers[1]]
      : named
        ? [named[3] ?? thisYear, String(months.indexOf(named[2] ?? '') + 1), named[1]]
        : null;
  if (!parts) return null;
  const [year = '', month = '', date = ''] = parts.map((part) => part ?? '');
  const day = `${year}-${month.padStart(2, '0')}-${date.padStart(2, '0')}`;
  const at = new Date(`${day}T00:00:00Z`);
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(day) ? day : null;
}
