import { randomBytes } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import { isOverTls, settings } from './settings.ts';
import { sitesOfLink } from './store/public-links.ts';

/* What every request passes before a route sees it. */

/** Nothing runs or is drawn with but our own scripts and styles and the framework's, which carry the nonce of this answer. */
const policy = (nonce: string, frames = "'none'"): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'`,
    `style-src 'self' 'nonce-${nonce}'`,
    // Sizes and colours of single elements are set in place; that loads nothing and selects nothing.
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    `frame-ancestors ${frames}`,
  ].join('; ');

/** Headers of every answer, files among them. */
export function protect(_: Request, response: Response, next: NextFunction): void {
  const nonce = randomBytes(16).toString('base64');
  response.locals.nonce = nonce;
  response.set({
    'Content-Security-Policy': policy(nonce),
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'same-origin',
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Permissions-Policy': 'camera=(), microphone=(), geolocation=()',
    ...(isOverTls() ? { 'Strict-Transport-Security': 'max-age=31536000' } : {}),
  });
  next();
}

/** Which pages there are, for the framework, under the name of this version: the same for everybody. */
const pagesPath = '/__manifest';

/** Answers to people are not kept by browsers. Files are, so they are sent before this. */
export function notKept({ path }: Request, response: Response, next: NextFunction): void {
  if (path !== pagesPath) response.set('Cache-Control', 'no-store');
  next();
}

/**
 * What a link shows to everybody is nothing for search engines, and its address is told to nobody. It may stand within pages of the sites that
 * the link names; nothing else of ours may within any.
 */
export async function publicPages(request: Request, response: Response, next: NextFunction): Promise<void> {
  const [, token] = /^\/open\/([\w-]{1,100})/.exec(request.path) ?? [];
  if (token !== undefined)
    response.set({ 'X-Robots-Tag': 'noindex, nofollow', 'Referrer-Policy': 'no-referrer' });
  const sites = token === undefined ? [] : await sitesOfLink(token);
  if (sites.length > 0)
    response.set('Content-Security-Policy', policy(String(response.locals.nonce), sites.join(' ')));
  next();
}

const refuse = (response: Response, status: number, text: string): void =>
  void response.status(status).type('text/plain').send(text);

/** Control characters have no place in a path, nor NUL anywhere; nor what is no percent-encoding (RFC 3986, 2.1). */
export function readableAddress(request: Request, response: Response, next: NextFunction): void {
  const [path = '', query = ''] = request.originalUrl.split('?', 2);
  try {
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what must not be there
    if (!/[\u0000-\u001f\u007f]/.test(decodeURIComponent(path)) && !/%00/.test(query)) {
      next();
      return;
    }
  } catch {
    // Answered below.
  }
  refuse(response, 400, 'This address cannot be read: it holds characters that no address of ours has.');
}

/** What changes something must come from our own pages: the origin that the browser states is this host's, scheme included. */
export function sameOrigin(request: Request, response: Response, next: NextFunction): void {
  const reads = ['GET', 'HEAD', 'OPTIONS'].includes(request.method);
  const { SLATE_ADDRESS } = settings();
  const own = SLATE_ADDRESS === '' ? `http://${request.get('host')}` : new URL(SLATE_ADDRESS).origin;
  if (reads || request.get('origin') === own) next();
  else refuse(response, 403, 'This request did not come from a page of this server.');
}

/** Bytes of a body, unless a route says otherwise. */
const usualBody = 64_000;
/** Definitions of data sets and dashboards are sent as JSON; the largest have 1,600 fields. */
const definitionBody = 4_000_000;
/** Files have a limit of their own, which counts what arrives. */
const filePath = '/workroom/upload/receive';
const definitionPaths = /^\/workroom\/(data-sets|dashboards|preview|try|shape|upload)\b/;

/** A change tells what was seen of each record that it is for, and a block of a spreadsheet all of its cells. */
const changeBody = 8_000_000;
const changePath = /^\/view\/[^/]+\/act$/;

/** Rows of a spreadsheet come packed, with whatever else is in the file. */
const rowsBody = 4_200_000;
const rowsPath = /^\/view\/[^/]+\/rows$/;

/** A note about a record may come with files (see `mostFileBytes`). */
const noteBody = 5_200_000;
const notePath = /^\/view\/[^/]+\/follow-up$/;

/** All that an installation has, in one file. */
const allDefinitionsBody = 20_000_000;

const larger: readonly (readonly [paths: RegExp, bytes: number])[] = [
  [changePath, changeBody],
  [rowsPath, rowsBody],
  [notePath, noteBody],
  [definitionPaths, definitionBody],
];

const mostBytes = (path: string): number =>
  path === filePath
    ? Number.POSITIVE_INFINITY
    : path === '/workroom/definitions'
      ? allDefinitionsBody
      : (larger.find(([paths]) => paths.test(path))?.[1] ?? usualBody);

/** Refuses a body that is too large, or does not say how large it is, before any of it is read. */
export function limitBody(request: Request, response: Response, next: NextFunction): void {
  if (request.method === 'GET' || request.method === 'HEAD') {
    next();
    return;
  }
  const most = mostBytes(request.path.replace(/\.data$/, ''));
  const length = request.get('content-length');
  const isWithout = length === undefined && request.get('transfer-encoding') === undefined;
  if (most === Number.POSITIVE_INFINITY || isWithout) {
    next();
    return;
  }
  const isTold = length !== undefined && request.get('transfer-encoding') === undefined;
  if (isTold && Number(length) <= most) {
    next();
    return;
  }
  // Nobody reads what is still coming.
  response.set('Connection', 'close');
  if (isTold)
    refuse(response, 413, `This is larger than the ${Math.round(most / 1000)} kB that may be sent here.`);
  else refuse(response, 411, 'This request does not say how large it is.');
}
