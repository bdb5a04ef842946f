import { bandOf } from '#core/value/field/band-of.ts';
import type { Band } from '#core/value/field/bands.ts';
import type { Cell } from '#core/value/field/value.ts';

/** How the place of a number shows which band it lies in: a bar at its edge and a tick in its corner, by what it means. */
export function bandLook(
  cell: Cell | undefined,
  bands: readonly Band[] | undefined,
): { readonly className: string; readonly title?: string } {
  const mark = bandOf(cell, bands);
  return mark ? { className: `band band-${mark.tone}`, title: mark.word } : { className: '' };
}
