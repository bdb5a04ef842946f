/** The least and greatest instant of fields, by field (ISO 8601). */
export type Spans = Readonly<Record<string, { readonly least: string; readonly greatest: string }>>;

/** Spans that hold both what was and what is new. */
export function joinSpans(a: Spans, b: Spans): Spans {
  const names = new Set([...Object.keys(a), ...Object.keys(b)]);
  return Object.fromEntries(
    [...names].flatMap((name) => {
      const both = [a[name], b[name]].flatMap((span) => (span ? [span] : []));
      const [least] = both.map((span) => span.least).sort();
      const greatest = both
        .map((span) => span.greatest)
        .sort()
        .at(-1);
      return least !== undefined && greatest !== undefined ? [[name, { least, greatest }]] : [];
    }),
  );
}
