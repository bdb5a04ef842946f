import { papers, type Sheet } from './pdf.ts';

/** What an address says of the paper: `_paper` a4 or letter, `_turn` upright; else A4 on its side. */
export const readSheet = (params: URLSearchParams): Sheet => ({
  paper: papers.find((paper) => paper === params.get('_paper')) ?? 'a4',
  isUpright: params.get('_turn') === 'upright',
});

/** A PDF to be downloaded, named after what an address calls it. */
export const pdfAnswer = (pdf: Uint8Array, slug: string): Response =>
  new Response(pdf as Uint8Array<ArrayBuffer>, {
    headers: {
      'Content-Type': 'application/pdf',
      'Content-Disposition': `attachment; filename="${slug.replace(/[^\w-]+/g, '-')}.pdf"; filename*=UTF-8''${encodeURIComponent(slug)}.pdf`,
    },
  });
