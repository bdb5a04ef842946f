import { useEffect, useRef, useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Cell } from '#core/value/field/value.ts';
import { useShape } from './steps/use-shape.ts';

/** The values that the records of a data set have in a field, once they are asked for: handed over when they are there. */
export function useFoundValues(
  field: string,
  { id, definition }: { readonly id: string; readonly definition: DataSet },
  onFound: (values: readonly Cell[]) => void,
) {
  const [isAsked, setIsAsked] = useState(false);
  const steps = definition.steps?.length ?? 0;
  const wanted = { kind: 'values' as const, steps, field, find: '' };
  const { found, problem, busy, again } = useShape(id, definition, isAsked ? wanted : null);
  const values = found?.values;
  const latest = useRef(onFound);
  latest.current = onFound;
  useEffect(() => {
    if (values) latest.current(values.map(({ value }) => value));
  }, [values]);
  return {
    count: busy ? undefined : values?.length,
    problem: busy ? null : problem,
    busy,
    find: () => (isAsked ? again() : setIsAsked(true)),
  };
}
