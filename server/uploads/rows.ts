import { readFile, stat } from 'node:fs/promises';
import { longestBlock } from '#core/change/asked.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { dropUpload, uploadedFile, usualReading } from './files.ts';
import { sheetAsCsv } from './sheet.ts';

const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the spreadsheet', why, mend });

/**
 * The rows of the first sheet of a spreadsheet that was sent, as CSV with their heads. Nothing of it is kept. A cell that holds an error is none that
 * is blank: nothing is taken of a sheet that has one. Throws a {@link ProblemError}.
 */
export async function rowsOfSheet(id: string): Promise<string> {
  const file = uploadedFile(id);
  const into = `${file}.sheet`;
  try {
    if ((await usualReading(id)).kind !== 'sheet')
      throw refused('it is not a spreadsheet', 'Choose an XLSX or a CSV file.');
    const { errors } = await sheetAsCsv(file, { kind: 'sheet' }, into);
    const [first] = errors.examples;
    if (first)
      throw refused(
        `${first.place} holds an error (${first.error}) and no value`,
        'Mend it there, then choose the file again.',
      );
    if ((await stat(into)).size > longestBlock)
      throw refused(
        'it has more than can be changed in one go',
        'Choose a file with fewer rows, or fewer columns.',
      );
    return await readFile(into, 'utf8');
  } finally {
    await dropUpload(id);
  }
}
