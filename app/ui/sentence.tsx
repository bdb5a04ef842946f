import type { Key, ReactNode } from 'react';

interface Part {
  readonly key: Key;
  readonly text: string;
  /** What stands for the text, where it can be changed. */
  readonly control?: ReactNode;
}

const markOf = (part: Part | undefined): string =>
  part && !part.control ? (/^[,.;:)]+/.exec(part.text)?.[0] ?? '') : '';

/** A sentence some of whose parts are controls. A comma or point stays on the line of the control that it follows. */
export function Sentence({ parts }: { readonly parts: readonly Part[] }) {
  return parts.map((part, index) => {
    if (part.control) {
      const mark = markOf(parts[index + 1]);
      return (
        <span key={part.key} className={mark ? 'whitespace-nowrap' : ''}>
          {part.control}
          {mark}
        </span>
      );
    }
    const follows = parts[index - 1]?.control !== undefined;
    return <span key={part.key}>{follows ? part.text.slice(markOf(part).length) : part.text}</span>;
  });
}
