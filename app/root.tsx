import textFont from '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url';
import { type ReactNode, useEffect, useState } from 'react';
import {
  isRouteErrorResponse,
  Links,
  Meta,
  Outlet,
  Scripts,
  ScrollRestoration,
  type ShouldRevalidateFunctionArgs,
  useRouteLoaderData,
} from 'react-router';
import { writeNumbersIn } from '#core/value/number-style.ts';
import { readLook } from '#server/cookies.ts';
import { openToAll } from '#server/guard.ts';
import { here } from './ui/here.ts';
import './app.css';
import type { Route } from './+types/root';
import { ButtonLink } from './ui/button.tsx';
import { earlyClickScript, sayLive } from './ui/early-click.ts';
import { useFocusKeeper } from './ui/focus-keeper.ts';
import { isAwaited } from './ui/load-again.ts';
import { choosesLook, useLook } from './ui/look.ts';
import { Mark } from './ui/mark.tsx';
import { SkipLink } from './ui/skip-link.tsx';
import { UnreachedLine } from './ui/unreached-line.tsx';

export const loader = openToAll(async ({ request, context }: Route.LoaderArgs) => ({
  ...(await readLook(request.headers.get('cookie'))),
  nonce: context.nonce,
}));

/** The letters come with the page: set in others first, its lines would break elsewhere a moment later. */
export const links: Route.LinksFunction = () => [
  { rel: 'preload', href: textFont, as: 'font', type: 'font/woff2', crossOrigin: 'anonymous' },
];

/** How pages look changes by that being chosen alone: nothing else has to ask for it, but what comes before it is there. */
export const shouldRevalidate = ({ formAction }: ShouldRevalidateFunctionArgs): boolean =>
  choosesLook(formAction) || isAwaited('look');

export function Layout({ children }: { children: ReactNode }) {
  useEffect(sayLive, []);
  const known = useRouteLoaderData<typeof loader>('root');
  // The browser hides a nonce once it is applied, so on the client there is none to give.
  const nonce = typeof document === 'undefined' ? known?.nonce : '';
  return (
    <html lang="en-GB" data-theme={known?.theme ?? 'system'} data-rows={known?.rows ?? 'roomy'}>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href={here('/mark.svg')} type="image/svg+xml" />
        <Meta />
        <Links />
        {here('') !== '' && (
          <script nonce={nonce}>{`window.slatePath = ${JSON.stringify(here(''))};`}</script>
        )}
        {/* On the page of what is not there nothing is loaded, and no button waits. */}
        {known && <script nonce={nonce}>{earlyClickScript}</script>}
      </head>
      <body>
        <SkipLink to="main">Skip to the content</SkipLink>
        {children}
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  );
}

export default function App() {
  useFocusKeeper();
  const { numbers } = useLook();
  const [style] = useState(numbers);
  // On the server it is the request’s, which the request itself has said.
  if (typeof document !== 'undefined') writeNumbersIn(() => style);
  useEffect(() => {
    // What is on the page has been written by then, much of it on the server.
    if (numbers !== style) location.reload();
  }, [numbers, style]);
  return (
    <>
      <Outlet />
      <UnreachedLine />
    </>
  );
}

/** The page for what could not be shown at all: refused, not there, or broken. */
export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
  const answered = isRouteErrorResponse(error);
  const explanation =
    answered && typeof error.data === 'object' ? (error.data as { title?: string; why?: string }) : {};
  const title =
    explanation.title ??
    (answered && error.status === 404 ? 'There is no such page' : 'This page could not be shown');
  const why =
    explanation.why ??
    (answered && error.status === 404
      ? 'The address may have a typing error.'
      : 'Nothing was lost. Try again; if it goes on, tell whoever runs this installation.');
  return (
    <main
      id="main"
      tabIndex={-1}
      className="mx-auto flex min-h-screen max-w-xl flex-col items-start justify-center gap-4 p-8"
    >
      <title>{title}</title>
      <Mark className="size-9 text-slate" />
      <h1 className="text-title">{title}</h1>
      <p className="text-lead text-slate">{why}</p>
      <ButtonLink to="/" look="main">
        Go to the desk
      </ButtonLink>
    </main>
  );
}
