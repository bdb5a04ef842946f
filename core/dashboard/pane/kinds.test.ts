import { expect, test } from 'vitest';
import { filesNaming } from '#testing/naming.ts';
import { kinds } from './kinds.ts';

/* Nothing outside a kind's folders asks which kind a pane is of. */

/** Where a kind may be named: its folders, and what follows. */
const own = (kind: string): string[] => [`core/dashboard/pane/kinds/${kind}/`, `app/panes/${kind}/`];
/** Where each kind has a line. */
const registries = [
  'core/dashboard/pane/kinds.ts',
  'core/dashboard/pane/uses.ts',
  'app/panes/briefs.ts',
  'app/panes/looks.ts',
];
/**
 * "table" is also what a request for one table of a database is called, and what a database calls it; "trace" the way of a record
 * through steps; “note” the column of what somebody says of a record; “form” what a source is described in, and how a file's field is
 * written. Definitions of earlier versions are read by what kinds were called then.
 */
const otherMeanings: Partial<Record<string, readonly string[]>> = {
  form: [
    'core/dashboard/migrate.ts',
    'app/routes/source-new.tsx',
    'server/uploads/look.ts',
    'server/sources/source-input.ts',
  ],
  note: ['server/store/tables/follow-ups.ts'],
  trace: ['app/routes/shape.ts', 'app/workroom/answers.ts', 'app/workroom/steps/'],
  table: [
    'sources/',
    'core/dataset/',
    'core/sql/relation.ts',
    'core/sql/dialect/mariadb/',
    'app/workroom/data-set-',
    'app/workroom/requests/',
    'app/routes/source.tsx',
    'app/routes/data-set-new.tsx',
  ],
};

test.each(Object.keys(kinds))('“%s” is named nowhere but in its own folders', (kind) => {
  expect(filesNaming(kind, [...own(kind), ...registries, ...(otherMeanings[kind] ?? [])])).toEqual([]);
});
