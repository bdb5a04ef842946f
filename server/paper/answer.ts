import { data } from 'react-router';
import { scopeParams } from '#core/dashboard/scope/address.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { wholeLists } from '../panes/context.ts';
import { inTurn } from '../turns/in-turn.ts';
import { type Printing, papers, pdfOf, type Sheet } from './pdf.ts';

/** What an address says of the paper: `_paper` a4 or letter, `_turn` upright; else A4 on its side. */
export const readSheet = (params: URLSearchParams): Sheet => ({
  paper: papers.find((paper) => paper === params.get('_paper')) ?? 'a4',
  isUpright: params.get('_turn') === 'upright',
});

/** Whether an address asks for all records of lists, not those of a page (`_lists=all`). */
export const hasWholeLists = (params: URLSearchParams): boolean => params.get('_lists') === 'all';

/** The parameters that a dashboard is drawn with: its scope, without what stands in the address for us. */
export function drawnWith(params: URLSearchParams, isWhole: boolean): URLSearchParams {
  // A list that is whole has no second page.
  const scope = [...scopeParams(params)].filter(([name]) => !(isWhole && name.endsWith('.page')));
  return new URLSearchParams([...scope, ...(isWhole ? [[wholeLists, 'yes']] : [])]);
}

/** A PDF to be downloaded, written in the turn of whoever asks and named after what an address calls it; why there is none otherwise. */
export async function answerPdf(printing: Printing, slug: string): Promise<Response> {
  try {
    const pdf = await inTurn('paper', printing.user.id, () => pdfOf(printing), printing.signal);
    return new Response(pdf as Uint8Array<ArrayBuffer>, {
      headers: {
        'Content-Type': 'application/pdf',
        'Content-Disposition': `attachment; filename="${slug.replace(/[^\w-]+/g, '-')}.pdf"; filename*=UTF-8''${encodeURIComponent(slug)}.pdf`,
      },
    });
  } catch (thrown) {
    const { why, mend } = problemOf(thrown, 'writing the PDF');
    throw data({ title: 'There is no PDF of this just now', why: `${why}. ${mend}` }, { status: 503 });
  }
}
