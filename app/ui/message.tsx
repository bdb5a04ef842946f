import type { ReactNode } from 'react';
import type { Problem } from '#core/value/problem/problem.ts';
import { capital } from '#core/words/capital.ts';

/** What went wrong, why in the source's own words, and what to do. */
export function ProblemMessage({ problem, children }: { problem: Problem; children?: ReactNode }) {
  return (
    <div role="alert" className="flex flex-col gap-1 border-l-3 border-broken py-1 pl-3">
      <p className="font-strong text-broken">
        {problem.doing.charAt(0).toUpperCase() + problem.doing.slice(1)} did not work.
      </p>
      <p>{sentence(problem.why)}</p>
      <p className="text-slate">{problem.mend}</p>
      {children}
    </div>
  );
}

const sentence = (text: string): string => {
  const words = capital(text);
  return /[.!?]$/.test(words) ? words : `${words}.`;
};

/** What is wrong with what was sent or asked for, in a line beside it. */
export function Wrong({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="text-small text-broken">
      {children}
    </p>
  );
}

/** Said where there is nothing to show. */
export function Quiet({ children }: { children: ReactNode }) {
  return <div className="flex min-h-16 flex-col items-start gap-1 pt-1 text-muted">{children}</div>;
}
