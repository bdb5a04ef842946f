import type { ShownField } from '#core/dashboard/pane/shown.ts';

const seriesCount = 8;

/** The colour of a value, as a CSS value: that of its state's tone or its own where it has one, else the place's in the set. */
export function colourOf(field: ShownField | undefined, value: unknown, index: number): string {
  const state = field?.states?.find((each) => each.value === String(value));
  if (state?.tone) return `var(--tone-${state.tone})`;
  const own = field?.colours?.find((each) => each.value === String(value));
  return `var(--series-${own?.colour ?? (index % seriesCount) + 1})`;
}

/** A CSS value as the page resolves it now, for what is drawn outside of CSS. */
export function resolveColour(colour: string): string {
  const name = /^var\((.*)\)$/.exec(colour)?.[1];
  return name ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : colour;
}
