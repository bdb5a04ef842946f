import { useCallback } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import { lostProblem, useQuestion } from '../ui/use-question.ts';
import type { TryAnswer } from './answers.ts';

const lost: TryAnswer = { ok: false, problem: lostProblem('trying the request') };

export interface Trial {
  readonly definition: DataSet;
  /** The data set's id, when its records are only where they are kept. */
  readonly keptAs: string | undefined;
  /** What the request leaves open is to be found from the answer. */
  readonly find?: boolean;
}

/** Asks for the records of a request that is not saved. */
export function useTry() {
  const { ask: question, ...rest } = useQuestion<TryAnswer>('/workroom/try', lost);
  const ask = useCallback(
    ({ definition: { source, request, inputs, fields }, keptAs, find }: Trial): void =>
      question({
        source,
        request,
        inputs,
        ...(keptAs ? { fields, kept: keptAs } : {}),
        ...(find ? { find } : {}),
      }),
    [question],
  );
  return { ...rest, ask };
}
