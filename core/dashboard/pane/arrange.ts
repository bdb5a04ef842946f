import type { Pane } from './schema.ts';
import type { Place } from './shared.ts';

const columns = 12;
const clamp = (value: number, least: number, greatest: number): number =>
  Math.min(greatest, Math.max(least, value));
const overlap = (a: Place, b: Place): boolean =>
  a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;

/** Panes that make room for those before them in an order, and close up as far as they can; given back as they stood. */
function closedUp(panes: readonly Pane[], before: (a: Pane, b: Pane) => number): Pane[] {
  const settled: Pane[] = [];
  for (const pane of [...panes].sort(before)) {
    let y = 0;
    while (settled.some((other) => overlap({ ...pane.place, y }, other.place))) y += 1;
    settled.push({ ...pane, place: { ...pane.place, y } });
  }
  const order = new Map(panes.map((pane, index) => [pane.id, index]));
  return settled.sort((a, b) => (order.get(a.id) ?? 0) - (order.get(b.id) ?? 0));
}

/** Panes as they stand; where some lie on each other, they make room from the top down. */
export function settled(panes: readonly Pane[]): Pane[] {
  const areClear = panes.every(
    (pane, at) => !panes.slice(0, at).some((other) => overlap(pane.place, other.place)),
  );
  return areClear ? [...panes] : closedUp(panes, (a, b) => a.place.y - b.place.y || a.place.x - b.place.x);
}

/**
 * Puts one pane at a place, kept on the sheet. The others make room below it, and all close up as far as they can, so
 * that panes never lie on each other and leave no empty rows.
 */
export function arrange(panes: readonly Pane[], id: string, wanted: Place): Pane[] {
  const w = clamp(wanted.w, 1, columns);
  const moved: Place = {
    w,
    h: clamp(wanted.h, 1, 40),
    x: clamp(wanted.x, 0, columns - w),
    y: Math.max(0, wanted.y),
  };
  const before = (a: Pane, b: Pane): number => {
    const [first, second] = [a, b].map((pane) => (pane.id === id ? moved.y - 0.5 : pane.place.y));
    return (first ?? 0) - (second ?? 0) || a.place.x - b.place.x;
  };
  return closedUp(
    panes.map((pane) => (pane.id === id ? { ...pane, place: moved } : pane)),
    before,
  );
}

/**
 * What an arrow key does to a pane: Left and Right move it by a column, Up and Down past the pane above or below it, and with
 * Shift each changes its size by one. Null for any other key, and where there is nothing to move past.
 */
export function placeByKey(panes: readonly Pane[], id: string, key: string, shift: boolean): Place | null {
  const step: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  const by = step[key];
  const place = panes.find((pane) => pane.id === id)?.place;
  if (!by || !place) return null;
  const [across, down] = by;
  if (shift)
    return { ...place, w: clamp(place.w + across, 1, columns - place.x), h: clamp(place.h + down, 1, 40) };
  if (down === 0) return { ...place, x: clamp(place.x + across, 0, columns - place.w) };
  const beside = panes.flatMap((pane) =>
    pane.id !== id && pane.place.x < place.x + place.w && place.x < pane.place.x + pane.place.w
      ? [pane.place]
      : [],
  );
  if (down > 0) {
    const below = beside.filter(({ y }) => y >= place.y + place.h).map(({ y }) => y);
    return below.length === 0 ? null : { ...place, y: Math.min(...below) + 1 };
  }
  const above = beside.filter(({ y, h }) => y + h <= place.y).map(({ y }) => y);
  return above.length === 0 ? null : { ...place, y: Math.max(...above) };
}
