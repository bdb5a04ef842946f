import type { Page } from '@playwright/test';

/* Whether a page speaks plain English: words that an operations manager would not say, and slips that no sentence should have. */

const notPlain: readonly RegExp[] = [
  /\bworkshop\b/i,
  /\bprov(?:e|ed|ing)\b/i,
  /\btake (?:it |the \w+ )?(?:away|back)\b/i,
  /\b(?:leave it|pass it over|stay here)\b/i,
  /\bmake another of it\b/i,
  /\bsave its records\b/i,
  /\bas it was at first\b/i,
  /\bnames it\b/i,
  /\btrue at \d/i,
  /\bas (?:many|much) as \d/i,
  /\b(?:largest|smallest) first\b/i,
  /\bas numbers are\b/i,
  /\bwords (?:along the bottom|up the side)\b/i,
  /\bkeeping all of them\b/i,
  /\bin the one ago\b/i,
  /\bthe first \d+ of more\b/i,
  /\bclauses of the scope line\b/i,
  /\bmeant so\b/i,
  /\banew\b/i,
  /\bbut for\b/i,
  /(?<!\bthere )\bis no (?!longer|more)/i,
  /\bso many\b/i,
  /\bwhat (?:is said|was asked)\b/i,
  /\bit is gone\b/i,
  /\bw(?:ho|hat) asks\b/i,
  // A plural by an “s” that is stuck on; references in capitals may end so.
  /\b[A-Z]?[a-z]+(?:ch|sh|x|[^aeiou]y)s\b/,
  // The sign of money stands before the amount.
  /\d[$€£]/,
  /\bundefined\b|\[object /,
];

/** What a page says and reads aloud that is not plain English, each with the words around it. */
export async function notPlainOn(page: Page): Promise<string[]> {
  const text = await page.evaluate(() => {
    const spoken = [...document.querySelectorAll('[aria-label], [title], [placeholder]')].flatMap((element) =>
      ['aria-label', 'title', 'placeholder'].map((name) => element.getAttribute(name) ?? ''),
    );
    // biome-ignore lint/performance/useDomNodeTextContent: what is seen, with its parts apart
    return [document.body.innerText, ...spoken].join('\n');
  });
  return notPlain.flatMap((words) => {
    const at = text.search(words);
    return at < 0 ? [] : [text.slice(Math.max(0, at - 30), at + 50).replaceAll(/\s+/g, ' ')];
  });
}
