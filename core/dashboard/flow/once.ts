import type { Context } from './context.ts';

type Definitions = Pick<Context, 'dashboard' | 'dataSets'>;

/**
 * Works something out once for a dashboard with its data sets. Definitions never change, and a published one is opened again and again;
 * one that was saved meanwhile is another object.
 */
export function once<T>(work: (of: Definitions) => T): (of: Definitions) => T {
  const known = new WeakMap<
    Definitions['dashboard'],
    { readonly of: Definitions['dataSets']; readonly value: T }
  >();
  return ({ dashboard, dataSets }) => {
    const found = known.get(dashboard);
    if (found?.of === dataSets) return found.value;
    const value = work({ dashboard, dataSets });
    known.set(dashboard, { of: dataSets, value });
    return value;
  };
}
