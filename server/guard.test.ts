import { randomBytes } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { beforeAll, describe, expect, test } from 'vitest';
import { guardedAction, guardedLoader, idParam, type RequestContext, to } from './guard.ts';
import type { Role, User } from './store/people.ts';

beforeAll(() => {
  process.env.SLATE_DATABASE = 'postgres://127.0.0.1/nowhere';
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
});

const somebody = (role: Role): User => ({
  id: 'u',
  email: 'u@skerry.example',
  name: 'U',
  isAdministrator: false,
  roles: { desk: role },
  groups: [],
  attributes: {},
});
const args = (user: User | null, url = 'http://x/desk/skerry?delay=1') => ({
  request: new Request(url),
  params: {},
  context: {
    nonce: '',
    token: 't',
    place: null,
    seeAs: null,
    address: '',
    person: Promise.resolve(user),
  } satisfies RequestContext,
  unstable_pattern: '',
});
type Args = Parameters<ReturnType<typeof guardedLoader<never, string>>>[0];
const asArgs = (given: ReturnType<typeof args>): Args => given as unknown as Args;
const status = (thrown: unknown): number | undefined =>
  thrown instanceof Response ? thrown.status : (thrown as { init?: { status?: number } }).init?.status;

describe('a guarded loader', () => {
  const loader = guardedLoader<never, string>(to('build'), () => 'done');

  test('lets in whoever may, and tells who it is', async () => {
    expect(await loader(asArgs(args(somebody('analyst'))))).toBe('done');
    const named = guardedLoader<never, string>(to('read'), ({ user }: { user: User }) => user.name);
    expect(await named(asArgs(args(somebody('reader'))))).toBe('U');
  });

  test('refuses whoever may not, with a reason for the page', async () => {
    const thrown = await loader(asArgs(args(somebody('reader')))).catch((each: unknown) => each);
    expect(status(thrown)).toBe(403);
    expect(JSON.stringify(thrown)).toContain('This is not for your role');
  });

  test('sends whoever is signed out to sign in, and back to the same address', async () => {
    const thrown = await loader(asArgs(args(null))).catch((each: unknown) => each);
    expect(thrown).toBeInstanceOf(Response);
    expect((thrown as Response).headers.get('location')).toBe('/sign-in?to=%2Fdesk%2Fskerry%3Fdelay%3D1');
  });

  test('asks for a page, not for its data, when coming back', async () => {
    const thrown = await loader(asArgs(args(null, 'http://x/workroom.data?a=1'))).catch(
      (each: unknown) => each,
    );
    expect((thrown as Response).headers.get('location')).toBe('/sign-in?to=%2Fworkroom%3Fa%3D1');
  });
});

test.each([guardedLoader, guardedAction])(
  'however much is begun for a request may listen for its end',
  async (guarded) => {
    const warnings: string[] = [];
    const hear = ({ name }: Error): void => void warnings.push(name);
    process.on('warning', hear);
    const request = args(somebody('analyst'));
    await guarded<never, string>(to('build'), () => 'done')(asArgs(request));
    for (let count = 0; count < 40; count += 1) request.request.signal.addEventListener('abort', () => count);
    await setImmediate();
    process.off('warning', hear);
    expect(warnings).toEqual([]);
  },
);

describe('a guarded action', () => {
  const action = guardedAction<never, string>(to('build'), () => 'done');

  test('tells a signed-out page so, instead of sending it away from what was typed', async () => {
    expect(await action(asArgs(args(null)))).toMatchObject({
      data: { signedOut: true },
      init: { status: 401 },
    });
  });

  test('refuses whoever may not', async () => {
    expect(status(await action(asArgs(args(somebody('supervisor')))).catch((each: unknown) => each))).toBe(
      403,
    );
  });
});

test('an id from an address must be one', () => {
  expect(idParam('5a1e0000-0000-4000-8000-000000000001', 'source')).toBe(
    '5a1e0000-0000-4000-8000-000000000001',
  );
  for (const odd of [
    undefined,
    '',
    'x',
    "1' OR '1'='1",
    '5a1e0000-0000-4000-8000-00000000000g',
    '../../etc',
  ]) {
    let thrown: unknown;
    try {
      idParam(odd, 'source');
    } catch (each) {
      thrown = each;
    }
    expect(status(thrown)).toBe(404);
  }
});
