import { listWords } from '#core/words/condition.ts';

/** "a sailing", "an incident". */
export const withArticle = (noun: string): string => `${/^[aeiou]/i.test(noun) ? 'an' : 'a'} ${noun}`;

/** What a reader is told by a pane that waits for a choice, and where on the page it can be made. */
export function waitingWords({ choose, from }: { choose: string; from: readonly string[] }): string {
  const what = withArticle(choose);
  if (from.length === 0)
    return `This shows something once ${what} is chosen; nothing on this page lets you choose one.`;
  return `Choose ${what} in ${listWords(
    from.map((title) => `“${title}”`),
    'or',
  )}.`;
}
