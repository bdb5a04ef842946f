import { matchPath } from 'react-router';

const pages = ['/', '/desk/:desk/:dashboard?', '/workroom/*'];

/** Only a page of our own: an address elsewhere would make signing in a way to lead people astray. */
export function safePath(to: string | null): string {
  const own = 'http://own.invalid';
  if (!to?.startsWith('/') || !URL.canParse(to, own)) return '/';
  // Read as a browser reads it, which passes over tabs and line ends and takes a backslash for a slash.
  const { origin, pathname, search } = new URL(to, own);
  // What is left once dots are followed may begin with two slashes, which is another server.
  if (pathname.includes('//')) return '/';
  return origin === own && pages.some((page) => matchPath(page, pathname)) ? `${pathname}${search}` : '/';
}
