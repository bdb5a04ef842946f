import { existsSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import { ProblemError } from '#core/value/problem/problem.ts';
import { settings } from '../settings.ts';

/** Debian's packages, the one without windows first. */
const programs = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'];

/** Starts a browser that draws pages for paper. Throws a {@link ProblemError} where there is none. */
export async function startBrowser(): Promise<Browser> {
  const doing = 'writing the PDF';
  const { SLATE_BROWSER } = settings();
  const program = SLATE_BROWSER === '' ? programs.find((each) => existsSync(each)) : SLATE_BROWSER;
  if (program === undefined)
    throw new ProblemError({
      code: 'missing',
      doing,
      why: 'this installation has no browser to draw the pages with',
      mend: 'An administrator can install Debian’s package chromium-headless-shell. Until then, print from your own browser.',
    });
  // Read when it is first needed: it would make every process that serves pages start later.
  const { chromium } = await import('playwright-core');
  return chromium.launch({
    executablePath: program,
    args: [
      ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
      '--disable-gpu',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}
