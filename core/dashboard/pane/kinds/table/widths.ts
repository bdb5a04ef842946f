/* How wide a reader has made columns, as an address says it: `field=180`, in pixels. */

export type Widths = Record<string, number>;

export const [narrowest, widest] = [48, 1200];

export const widthTexts = (widths: Widths): string[] =>
  Object.entries(widths).map(([field, width]) => `${field}=${Math.round(width)}`);

/** What is no width, or too narrow or wide for one, is left out. */
export const widthsOf = (texts: readonly string[] = []): Widths =>
  Object.fromEntries(
    texts.flatMap((text) => {
      const [, field, pixels] = /^(.+)=(\d{1,4})$/.exec(text) ?? [];
      const width = Number(pixels);
      return field !== undefined && width >= narrowest && width <= widest ? [[field, width]] : [];
    }),
  );
