import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';

const css = readFileSync('app/app.css', 'utf8');

/** The colours of a theme, by name. */
function theme(selector: string): Map<string, string> {
  const block = css.slice(css.indexOf(`${selector} {`)).split('}')[0] ?? '';
  return new Map(
    [...block.matchAll(/--([\w-]+): (#[0-9a-f]{6});/g)].map((match) => [match[1] ?? '', match[2] ?? '']),
  );
}
const day = theme(':root');
// What the night theme does not set it takes from the day.
const night = new Map([...day, ...theme('@utility night-theme')]);

type Rgb = [number, number, number];
const rgb = (hex: string): Rgb =>
  [1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16) / 255) as Rgb;
const linear = (part: number): number => (part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4);

/** Relative luminance and contrast as WCAG 2.2 defines them. */
const luminance = (hex: string): number => {
  const [r, g, b] = rgb(hex).map(linear) as Rgb;
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const contrast = (a: string, b: string): number => {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (light + 0.05) / (dark + 0.05);
};

/** Dichromats' views of linear RGB (Viénot, Brettel and Mollon 1999 for red and green; Brettel's plane for blue). */
const sights: Record<string, [Rgb, Rgb, Rgb]> = {
  'full colour vision': [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  protanopia: [
    [0.11238, 0.88762, 0],
    [0.11238, 0.88762, 0],
    [0.00401, -0.00401, 1],
  ],
  deuteranopia: [
    [0.29275, 0.70725, 0],
    [0.29275, 0.70725, 0],
    [-0.02234, 0.02234, 1],
  ],
  tritanopia: [
    [1, 0.14461, -0.14461],
    [0, 0.85924, 0.14076],
    [0, 0.85924, 0.14076],
  ],
};

/** CIE L*a*b* (D65), in which distances are about as the eye has them. */
function lab(hex: string, sight: [Rgb, Rgb, Rgb]): Rgb {
  const seen = rgb(hex).map(linear) as Rgb;
  const [r, g, b] = sight.map((row) =>
    Math.min(1, Math.max(0, row[0] * seen[0] + row[1] * seen[1] + row[2] * seen[2])),
  ) as Rgb;
  const f = (t: number): number => (t > 0.008856 ? Math.cbrt(t) : 7.787 * t + 16 / 116);
  const x = f((0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.95047);
  const y = f(0.2126 * r + 0.7152 * g + 0.0722 * b);
  const z = f((0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}
const distance = (a: string, b: string, sight: [Rgb, Rgb, Rgb]): number => {
  const [first, second] = [lab(a, sight), lab(b, sight)];
  return Math.hypot(first[0] - second[0], first[1] - second[1], first[2] - second[2]);
};

const colour = (from: Map<string, string>, name: string): string => {
  const found = from.get(name);
  if (!found) throw new Error(`no colour ${name}`);
  return found;
};

describe.each([
  ['day', day],
  ['night', night],
])('by %s', (_, colours) => {
  const of = (name: string): string => colour(colours, name);
  const series = Array.from({ length: 8 }, (_each, index) => of(`series-${index + 1}`));

  test.each([
    'ink',
    'slate',
    'muted',
    'accent',
    'tone-settled',
    'tone-moving',
    'tone-waiting',
    'tone-slipping',
    'tone-broken',
  ])('%s is read on paper and on a sheet at 4.5 to 1', (name) => {
    for (const ground of ['paper', 'sheet'])
      expect(contrast(of(name), of(ground))).toBeGreaterThanOrEqual(4.5);
  });

  test('the words on a button are read on it', () => {
    for (const name of ['accent', 'accent-strong'])
      expect(contrast(of('on-accent'), of(name))).toBeGreaterThanOrEqual(4.5);
  });

  test('every series stands out from the paper at 3 to 1', () => {
    for (const one of series) expect(contrast(one, of('paper'))).toBeGreaterThanOrEqual(3);
  });

  test.each(Object.keys(sights))('neighbouring series are told apart with %s', (name) => {
    const sight = sights[name];
    if (!sight) throw new Error(name);
    for (const [index, one] of series.entries()) {
      const next = series[index + 1];
      if (next)
        expect(distance(one, next, sight), `series ${index + 1} and ${index + 2}`).toBeGreaterThan(11);
    }
  });
});
