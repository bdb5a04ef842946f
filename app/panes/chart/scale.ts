/** A scale that several charts share. */
export interface Scale {
  readonly least: number;
  readonly greatest: number;
  /** How many stretches it has. */
  readonly ticks: number;
}

/** About so many stretches are told apart on a small chart. */
const wantedTicks = 3;

/** A scale of round numbers that holds all from the least to the greatest. */
export function roundScale(least: number, greatest: number): Scale {
  if (!Number.isFinite(least) || !Number.isFinite(greatest)) return { least: 0, greatest: 1, ticks: 1 };
  const raw = (greatest - least || Math.abs(greatest) || 1) / wantedTicks;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = ([1, 2, 2.5, 5].find((each) => each * power >= raw) ?? 10) * power;
  const [from, to] = [Math.floor(least / step + 1e-9), Math.ceil(greatest / step - 1e-9)];
  const ticks = Math.max(1, to - from);
  const exact = (count: number): number => Number((count * step).toPrecision(12));
  return { least: exact(from), greatest: exact(from + ticks), ticks };
}
