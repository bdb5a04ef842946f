import { csvLine } from '../export/formats/csv/line.ts';
import { changedOfDesk, type ListedChange } from '../store/changes.ts';

/* The changes of a desk as a file: a line for each field of each record. */

const heads = ['At', 'By', 'Action', 'Pane', 'Record', 'Key', 'Field', 'Before', 'After', 'Outcome', 'Why'];

const stateWords = { done: 'done', refused: 'not done', unknown: 'not known yet', sending: 'being sent' };

/** Times are in ISO 8601, values as their sources have them. */
export async function* changesAsCsv(deskId: string, find: string): AsyncGenerator<string> {
  const types = heads.map(() => 'text' as const);
  yield csvLine(heads, types);
  for await (const rows of changedOfDesk(deskId, find)) yield rows.flatMap(linesOf).join('');

  function linesOf(row: ListedChange): string[] {
    const { at, by, label, pane, title, key, before, after, state, outcome, why = null } = row;
    const fields = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])];
    // Where nothing is said of a record by itself, it is as all of them are.
    const became = stateWords[outcome ?? state];
    const of = [at.toISOString(), by, label, pane, title, key];
    return (fields.length > 0 ? fields : ['']).map((field) =>
      csvLine([...of, field || null, before?.[field] ?? null, after?.[field] ?? null, became, why], types),
    );
  }
}
