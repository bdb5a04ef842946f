import type { Bins } from '#core/value/bins/schema.ts';
import type { Cell } from '#core/value/field/value.ts';

/** A step of a drill: the records behind a number, or one record. The steps so far stand in the address as `_drill`. */
export type Drill =
  | {
      readonly kind: 'behind';
      readonly title: string;
      readonly cell: {
        pane: string;
        values: readonly Cell[];
        of?: readonly number[];
        measure?: number;
        restOf?: readonly Cell[];
        before?: boolean;
        bins?: Bins;
      };
    }
  | {
      readonly kind: 'record';
      readonly title: string /** The pane that it is opened from. */;
      readonly pane: string;
      readonly key: string;
    };

export const drillToText = (drill: Drill): string =>
  JSON.stringify(
    drill.kind === 'behind' ? ['b', drill.title, drill.cell] : ['r', drill.title, drill.pane, drill.key],
  );

/** Reads a step; null for anything else. What it names is checked by the server when it is asked for. */
export function drillFromText(text: string): Drill | null {
  try {
    const parts: unknown = JSON.parse(text);
    if (!Array.isArray(parts)) return null;
    const [kind, title, third, fourth] = parts as unknown[];
    if (typeof title !== 'string') return null;
    if (kind === 'r' && typeof third === 'string' && typeof fourth === 'string')
      return { kind: 'record', title, pane: third, key: fourth };
    if (kind !== 'b' || typeof third !== 'object' || third === null || !('pane' in third)) return null;
    return { kind: 'behind', title, cell: third as Extract<Drill, { kind: 'behind' }>['cell'] };
  } catch {
    return null;
  }
}
