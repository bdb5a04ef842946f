import type { ShownMeasure } from '#core/dashboard/pane/shown.ts';
import { formatCell, type ReadBy } from '#core/value/format/format.ts';
import { pageNonce } from '../../ui/nonce.ts';

/* What all drawings share. */

/** The theme's colours as the page has them now. */
export function themeColours() {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string): string => style.getPropertyValue(name).trim();
  return {
    ink: read('--ink'),
    muted: read('--muted'),
    grid: read('--grid'),
    accent: read('--accent'),
  };
}
type Colours = ReturnType<typeof themeColours>;

/** Drawn numbers may be approximate; what is said of them is formatted from the exact text. */
export const drawn = (value: unknown): number | null =>
  value === null || value === undefined || !Number.isFinite(Number(value)) ? null : Number(value);

/** A number along an axis; a share of a whole as a percentage. */
export const axisLabel = (
  value: number,
  { format }: Pick<ShownMeasure, 'format'>,
  clock: ReadBy,
  isShare = false,
): string =>
  formatCell(
    String(Number(value.toPrecision(12))),
    isShare || format?.kind === 'percent'
      ? { type: 'decimal', format: { kind: 'percent', decimals: 0 } }
      : { type: 'decimal' },
    clock,
  );

/** All of its place, still, and without the tools of the drawing library. */
export const plainFrame = ({ muted }: Colours) => ({
  height: '100%',
  width: '100%',
  toolbar: { show: false },
  zoom: { enabled: false },
  animations: { enabled: false },
  background: 'transparent',
  foreColor: muted,
  parentHeightOffset: 0,
  selection: { enabled: false },
  nonce: pageNonce(),
});

export const axisText = ({ muted }: Colours) => ({ colors: muted, fontSize: '12px' });

export const axisTitle = (words: string, { muted }: Colours) => ({
  text: words,
  style: { color: muted, fontSize: '12px', fontWeight: 400 },
});

/** What is said of a mark, a line each, the last ones strong; words of records are text here and never markup. */
export function tooltipOf(lines: readonly { readonly words: string; readonly strong: boolean }[]): string {
  const box = document.createElement('div');
  for (const { words, strong } of lines) {
    const part = box.appendChild(document.createElement('div'));
    part.textContent = words;
    part.style.fontWeight = strong ? '650' : '400';
  }
  return `<div style="padding:6px 10px">${box.innerHTML}</div>`;
}
