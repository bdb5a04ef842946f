import type { Band } from '#core/value/field/bands.ts';

/** What bands say, from the lowest: "below 80%: poor; from 80%: fair; from 90%: no mark". */
export const bandsWords = (bands: readonly Band[], number: (text: string) => string): string =>
  bands
    .map(({ from, mark }, at) => {
      const next = bands[at + 1]?.from;
      const range =
        from === undefined
          ? next === undefined
            ? 'any number'
            : `below ${number(next)}`
          : `from ${number(from)}`;
      return `${range}: ${mark?.word ?? 'no mark'}`;
    })
    .join('; ');
