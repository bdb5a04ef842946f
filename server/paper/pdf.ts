import type { Browser, Page } from 'playwright-core';
import { ProblemError } from '#core/value/problem/problem.ts';
import { sessionCookies } from '../cookies.ts';
import { ownAddress } from '../own-address.ts';
import { beginSession, endSessions, sessionsOf, type User } from '../store/people.ts';
import { startBrowser } from './browser.ts';

/* Dashboards on paper, drawn by a browser of ours exactly as the person who asks would see them: it signs in as them for the while. */

export const papers = ['a4', 'letter'] as const;
export type Paper = (typeof papers)[number];

export interface Sheet {
  readonly paper: Paper;
  readonly isUpright: boolean;
}

/** A dashboard as its page is reached. */
export interface Printed {
  /** From the slash on, with its scope. */
  readonly path: string;
  readonly title: string;
}

/** Millimetres: the short and the long side, and what stays free at each edge. */
const sizes: Readonly<Record<Paper, readonly [number, number]>> = { a4: [210, 297], letter: [215.9, 279.4] };
const edge = { side: 12, top: 18, bottom: 16 };
const pixelsPerMm = 96 / 25.4;
/** The width that a page is laid out in before it is made as small as the paper needs. */
const layoutWidth = { upright: 1200, side: 1280 };
const readyMs = 40_000;
/** Longer than this no PDF takes, however many dashboards are in it. */
const wholeMs = 180_000;

const escaped = (text: string): string => text.replace(/[&<>"']/g, (mark) => `&#${mark.charCodeAt(0)};`);

/** The line at the head or foot of every page. */
const line = (left: string, right: string): string =>
  `<div style="width:100%;margin:0 ${edge.side}mm;display:flex;justify-content:space-between;gap:8mm;font:7.5pt 'Liberation Sans',Arial,sans-serif;color:#3d4f5c"><span style="overflow:hidden;white-space:nowrap;text-overflow:ellipsis">${left}</span><span style="white-space:nowrap">${right}</span></div>`;

/** What is printed is what is there once every pane has its records, its charts are drawn and its letters are loaded. */
async function ready(page: Page): Promise<void> {
  await page.waitForFunction(
    () =>
      document.documentElement.dataset.live === 'yes' &&
      document.querySelector('[data-awaited], [data-undrawn]') === null,
    undefined,
    { timeout: readyMs },
  );
  await page.evaluate(() => document.fonts.ready.then(() => undefined));
}

async function drawn(
  browser: Browser,
  { path, title }: Printed,
  { paper, isUpright }: Sheet,
  cookies: Readonly<Record<string, string>>,
  desk: string,
  address: string,
): Promise<Buffer> {
  const [short, long] = sizes[paper];
  const across = isUpright ? short : long;
  const context = await browser.newContext({
    viewport: { width: isUpright ? layoutWidth.upright : layoutWidth.side, height: 900 },
    colorScheme: 'light',
    reducedMotion: 'reduce',
  });
  try {
    await context.addCookies(Object.entries(cookies).map(([name, value]) => ({ name, value, url: address })));
    const page = await context.newPage();
    const answer = await page.goto(`${address}${path}`, { waitUntil: 'domcontentloaded', timeout: readyMs });
    if (!answer?.ok())
      throw new ProblemError({
        code: 'missing',
        doing: 'writing the PDF',
        why: `“${title}” cannot be opened just now`,
        mend: 'Open the dashboard, then try again.',
      });
    await ready(page);
    const paperWidth = Math.floor((across - 2 * edge.side) * pixelsPerMm);
    const rule = `@page { size: ${across}mm ${isUpright ? long : short}mm; margin: ${edge.top}mm ${edge.side}mm ${edge.bottom}mm }`;
    const { scope, asOf } = await page.evaluate(
      ([width, pageRule]) => {
        document.documentElement.dataset.paper = String(width);
        const sheet = new CSSStyleSheet();
        sheet.replaceSync(pageRule);
        document.adoptedStyleSheets.push(sheet);
        const textOf = (name: string): string => {
          const place = document.querySelector(`[data-${name}]`)?.cloneNode(true);
          if (!(place instanceof Element)) return '';
          for (const each of place.querySelectorAll('.no-print')) each.remove();
          return place.textContent?.replace(/\s+/g, ' ').trim() ?? '';
        };
        return { scope: textOf('scope-sentence'), asOf: textOf('as-of') };
      },
      [paperWidth, rule] as const,
    );
    return await page.pdf({
      preferCSSPageSize: true,
      printBackground: true,
      displayHeaderFooter: true,
      headerTemplate: line(`<b>${escaped(title)}</b>&ensp;${escaped(scope)}`, escaped(desk)),
      footerTemplate: line(
        escaped(asOf),
        '<span class="pageNumber"></span> of <span class="totalPages"></span>',
      ),
    });
  } finally {
    await context.close();
  }
}

async function together(parts: readonly Buffer[], title: string): Promise<Uint8Array> {
  const { PDFDocument } = await import('pdf-lib');
  const whole = await PDFDocument.create();
  whole.setTitle(title);
  whole.setProducer('Slate Glass');
  for (const part of parts) {
    const read = await PDFDocument.load(part);
    for (const page of await whole.copyPages(read, read.getPageIndices())) whole.addPage(page);
  }
  return whole.save();
}

export interface Printing {
  readonly user: User;
  /** As whom else they look, by their id. */
  readonly seeAs: string | null;
  readonly desk: string;
  readonly title: string;
  readonly dashboards: readonly Printed[];
  readonly sheet: Sheet;
  readonly signal: AbortSignal;
}

/** Dashboards as one PDF, as somebody sees them. Throws a {@link ProblemError} where it cannot be drawn. */
export async function pdfOf({
  user,
  seeAs,
  desk,
  title,
  dashboards,
  sheet,
  signal,
}: Printing): Promise<Uint8Array> {
  const address = ownAddress();
  if (address === null) throw new Error('this process serves no pages');
  const token = await beginSession(user.id, { browser: 'Slate Glass, for a PDF', isOurs: true });
  let browser: Browser | null = null;
  const stop = (): void => void browser?.close().catch(() => undefined);
  const late = setTimeout(stop, wholeMs);
  signal.addEventListener('abort', stop, { once: true });
  try {
    browser = await startBrowser();
    signal.throwIfAborted();
    const cookies = await sessionCookies(token, seeAs);
    const parts: Buffer[] = [];
    for (const dashboard of dashboards)
      parts.push(await drawn(browser, dashboard, sheet, cookies, desk, address));
    return await together(parts, title);
  } catch (thrown) {
    if (thrown instanceof ProblemError || signal.aborted) throw thrown;
    throw new ProblemError({
      code: 'time-out',
      doing: 'writing the PDF',
      why: 'the pages could not be drawn in time',
      mend: 'Try again, or print from your own browser.',
    });
  } finally {
    clearTimeout(late);
    signal.removeEventListener('abort', stop);
    await browser?.close().catch(() => undefined);
    await endSessions(sessionsOf(token));
  }
}
