import { createCookie } from 'react-router';
import { type NumberStyle, numberStyle, numberStyles } from '#core/value/number-style.ts';
import { isId } from './ids.ts';
import { basePath, isOverTls, settings } from './settings.ts';
import { sessionSeconds } from './store/people.ts';

const yearSeconds = 31_536_000;

const session = createCookie('slate_session', { httpOnly: true, sameSite: 'lax', maxAge: sessionSeconds });
/** Names the browser, for a year, to the accounts that have signed in from it. */
const place = createCookie('slate_place', { httpOnly: true, sameSite: 'lax', maxAge: yearSeconds });
/** What is to come back from where people sign in, for as long as that takes. */
const going = createCookie('slate_going', { httpOnly: true, sameSite: 'lax', maxAge: 600 });
/** As whom somebody looks at desks, for the hour. */
const seeAs = createCookie('slate_see_as', { httpOnly: true, sameSite: 'lax', maxAge: 3600 });
/** How pages look is a wish of this browser, and nobody's secret. */
const theme = createCookie('slate_theme', { sameSite: 'lax', maxAge: yearSeconds });
const rows = createCookie('slate_rows', { sameSite: 'lax', maxAge: yearSeconds });
const numbers = createCookie('slate_numbers', { sameSite: 'lax', maxAge: yearSeconds });

/** Over plain HTTP a browser would not send a `Secure` cookie back. */
const secure = () => ({ secure: isOverTls() });

/** What a browser sends of itself; null where it sends nothing that we gave it. */
export async function readCookies(
  header: string | null,
): Promise<{ token: string | null; place: string | null; seeAs: string | null }> {
  const [token, from, other]: unknown[] = await Promise.all(
    [session, place, seeAs].map((cookie) => cookie.parse(header)),
  );
  return {
    token: typeof token === 'string' && token !== '' ? token : null,
    place: typeof from === 'string' ? from : null,
    seeAs: isId(other) ? other : null,
  };
}

/** The `Set-Cookie` headers of somebody who has just signed in. */
export const signedInHeaders = async (token: string, from: string): Promise<Headers> =>
  new Headers([
    ['Set-Cookie', await session.serialize(token, secure())],
    ['Set-Cookie', await place.serialize(from, secure())],
  ]);

/** The `Set-Cookie` header of a browser that goes to sign in elsewhere, with what is to come back; null once it has. */
export const goingHeader = (value: unknown): Promise<string> =>
  going.serialize(value ?? '', {
    ...secure(),
    path: `${basePath()}/sign-in`,
    ...(value === null ? { maxAge: 0 } : {}),
  });

export const readGoing = (header: string | null): Promise<unknown> => going.parse(header);

/** The cookies by which a browser of ours looks as somebody does, by name. */
export async function sessionCookies(token: string, other: string | null): Promise<Record<string, string>> {
  const written = await Promise.all([
    session.serialize(token),
    numbers.serialize(numberStyle()),
    ...(other === null ? [] : [seeAs.serialize(other)]),
  ]);
  return Object.fromEntries(
    written.map((text): [string, string] => {
      const [pair = ''] = text.split(';');
      const at = pair.indexOf('=');
      return [pair.slice(0, at), pair.slice(at + 1)];
    }),
  );
}

export const signedOutHeaders = async (): Promise<Headers> =>
  new Headers({ 'Set-Cookie': await session.serialize('', { ...secure(), maxAge: 0 }) });

/** `id` null: as themself again. */
export const seeAsHeaders = async (id: string | null): Promise<Headers> =>
  new Headers({
    'Set-Cookie': await seeAs.serialize(id ?? '', { ...secure(), ...(id === null ? { maxAge: 0 } : {}) }),
  });

export const themes = ['day', 'night'] as const;
/** How close the rows of tables stand. */
export const rowSpacings = ['roomy', 'close'] as const;

export interface Look {
  /** `system` until this browser has chosen. */
  readonly theme: (typeof themes)[number] | 'system';
  readonly rows: (typeof rowSpacings)[number];
  readonly numbers: NumberStyle;
}

const oneOf = <T extends string>(known: readonly T[], chosen: unknown): T | undefined =>
  known.find((each) => each === chosen);

/** How this browser wants pages to look. */
export async function readLook(header: string | null): Promise<Look> {
  const [chosen, spacing, style] = await Promise.all(
    [theme, rows, numbers].map((cookie) => cookie.parse(header)),
  );
  return {
    theme: oneOf(themes, chosen) ?? 'system',
    rows: oneOf(rowSpacings, spacing) ?? 'roomy',
    numbers: oneOf(numberStyles, style) ?? settings().SLATE_NUMBERS,
  };
}

/** Keeps what was chosen of how pages look; anything else is as if it had not been said. */
export async function lookHeaders(chosen: Readonly<Record<string, unknown>>): Promise<Headers> {
  const wishes = [
    { cookie: theme, wish: oneOf(themes, chosen.theme) },
    { cookie: rows, wish: oneOf(rowSpacings, chosen.rows) },
    { cookie: numbers, wish: oneOf(numberStyles, chosen.numbers) },
  ].filter(({ wish }) => wish !== undefined);
  const written = await Promise.all(wishes.map(({ cookie, wish }) => cookie.serialize(wish, secure())));
  return new Headers(written.map((text): [string, string] => ['Set-Cookie', text]));
}
