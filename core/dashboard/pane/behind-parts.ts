import { listWords } from '#core/words/condition.ts';
import type { BriefPart } from './kind.ts';

/** What the records behind a pane's numbers show. Readers are not told: they see it. */
export const behindParts = (
  behind: readonly string[] | undefined,
  field: (name: string) => string,
): BriefPart[] => [
  { text: ' The records behind it show ' },
  { slot: 'behind', text: behind?.length ? listWords(behind.map(field)) : 'what its panes show' },
  { text: '.' },
];
