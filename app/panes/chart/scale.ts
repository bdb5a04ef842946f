/** A scale that several charts share. */
export interface Scale {
  readonly least: number;
  readonly greatest: number;
  /** How many stretches it has. */
  readonly ticks: number;
}

/** About this many stretches are told apart on a small chart. */
const smallTicks = 3;

/** A scale of round numbers, of about this many stretches, that holds all from the least to the greatest. */
export function roundScale(least: number, greatest: number, wanted = smallTicks): Scale {
  if (!Number.isFinite(least) || !Number.isFinite(greatest)) return { least: 0, greatest: 1, ticks: 1 };
  const raw = (greatest - least || Math.abs(greatest) || 1) / wanted;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = ([1, 2, 2.5, 5].find((each) => each * power >= raw) ?? 10) * power;
  const [from, to] = [Math.floor(least / step + 1e-9), Math.ceil(greatest / step - 1e-9)];
  const ticks = Math.max(1, to - from);
  const exact = (count: number): number => Number((count * step).toPrecision(12));
  return { least: exact(from), greatest: exact(from + ticks), ticks };
}

/** A logarithmic scale of whole powers of ten; its ends are their exponents. Only numbers above zero stand on it. */
export function powerScale(values: readonly number[]): Scale {
  const above = values.filter((value) => value > 0);
  if (above.length === 0) return { least: 0, greatest: 1, ticks: 1 };
  const least = Math.floor(Math.log10(Math.min(...above)) + 1e-9);
  const greatest = Math.max(least + 1, Math.ceil(Math.log10(Math.max(...above)) - 1e-9));
  return { least, greatest, ticks: greatest - least };
}

/** This many stretches are told apart on a chart of dots. */
const dotTicks = 5;

/** A scale on which no dot stands at an end, where its name would be cut off; it begins at nothing rather than below. */
export function dotScale(values: readonly number[]): Scale {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const room = (high - low || Math.abs(high) || 1) * 0.15;
  return roundScale(low >= 0 ? Math.max(0, low - room) : low - room, high + room, dotTicks);
}
