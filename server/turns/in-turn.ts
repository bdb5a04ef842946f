import { send } from '../records/there.ts';
import { settings } from '../settings.ts';
import * as here from './turns.ts';

/** Waits for a person's turn, among all processes; gives what ends it. Throws a `ProblemError` where too many wait already. */
export async function takeTurn(of: here.TurnOf, person: string, signal?: AbortSignal): Promise<() => void> {
  if (settings().SLATE_RECORDS === '') return here.takeTurn(of, person, signal);
  const gaveUp = new AbortController();
  const giveUp = (): void => gaveUp.abort(signal?.reason);
  signal?.throwIfAborted();
  signal?.addEventListener('abort', giveUp, { once: true });
  try {
    // It lasts as long as the connection, and not until its asker leaves: what is done in it may take a moment to end.
    const turn = await send({ ask: 'turn', of, person, doing: 'waiting for its turn' }, gaveUp.signal);
    turn.on('error', () => undefined);
    return () => void turn.destroy();
  } finally {
    signal?.removeEventListener('abort', giveUp);
  }
}

/** Does something in a person's turn. Throws a `ProblemError` where too many wait already. */
export async function inTurn<T>(
  of: here.TurnOf,
  person: string,
  work: () => Promise<T>,
  signal?: AbortSignal,
): Promise<T> {
  const leave = await takeTurn(of, person, signal);
  try {
    return await work();
  } finally {
    leave();
  }
}
