import { expect, test } from 'vitest';
import { exportFormatNames } from '#core/words/export-formats.ts';
import { filesNaming } from '#testing/naming.ts';

/* Nothing outside a format's folder asks which format a file is of. */

/** What else these words mean: what a service may answer, and what an uploaded file may be. */
const asRead = [
  'core/dataset/',
  'sources/http/',
  'engine/columnar/',
  'server/uploads/',
  'app/workroom/',
  'app/routes/upload',
];
const otherMeanings: Partial<Record<string, readonly string[]>> = {
  csv: asRead,
  json: [...asRead, 'sources/', 'server/intake.ts', 'core/sql/'],
  // How the panes of a page are answered.
  ndjson: [...asRead, 'app/desk/use-panes.ts'],
  parquet: asRead,
};

test.each(exportFormatNames)('“%s” is named nowhere but in its own folder', (format) => {
  expect(filesNaming(format, [`server/export/formats/${format}/`, ...(otherMeanings[format] ?? [])])).toEqual(
    [],
  );
});
