/** A small seeded generator (mulberry32): the same seed gives the same demo everywhere. */
export interface Random {
  /** 0 ≤ x < 1. */
  next(): number;
  /** A whole number, both ends included. */
  between(least: number, greatest: number): number;
  pick<T>(items: readonly [T, ...T[]]): T;
  chance(probability: number): boolean;
}

export function seeded(seed: number): Random {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
  return {
    next,
    between: (least, greatest) => least + Math.floor(next() * (greatest - least + 1)),
    pick: (items) => items[Math.floor(next() * items.length)] ?? items[0],
    chance: (probability) => next() < probability,
  };
}
