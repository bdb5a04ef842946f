import { afterEach, expect, test, vi } from 'vitest';
import { log } from '#server/log.ts';
import { handleError } from './entry.server.tsx';

afterEach(() => void vi.restoreAllMocks());

/** What stands in the log of a page that ended with something. */
function logged(thrown: unknown): unknown {
  const error = vi.spyOn(log, 'error').mockImplementation(() => undefined);
  handleError(thrown, { request: new Request('http://127.0.0.1/nothing/here?of=SK-1') });
  return error.mock.lastCall?.[0];
}

test('an address that leads nowhere is no failure; what a page failed by is logged without its query', () => {
  const answer = (status: number) => ({ status, statusText: '', internal: true, data: 'Error: no route' });
  expect(logged(answer(404))).toBeUndefined();
  expect(logged(answer(405))).toBeUndefined();
  expect(logged(answer(500))).toMatchObject({ path: '/nothing/here', why: 'Error: no route' });
  expect(logged(new Error('out of reach'))).toMatchObject({ path: '/nothing/here', why: 'out of reach' });
});
