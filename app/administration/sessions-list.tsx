import Bowser from 'bowser';
import { formatMoment } from '#core/value/format/format.ts';
import type { SessionRow } from '#server/store/accounts.ts';
import { Button } from '../ui/button.tsx';
import { type PageClock, readBy } from './clock.ts';

/** What a browser is called, from what it says of itself. */
function browserWords(agent: string): string {
  if (agent === '') return 'A browser';
  const { browser, os } = Bowser.parse(agent);
  const name = browser.name || 'A browser';
  return os.name ? `${name} on ${os.name}` : name;
}

/** Where somebody is signed in, each of which can be ended. */
export function SessionsList({
  sessions,
  clock,
  onEnd,
}: {
  sessions: readonly SessionRow[];
  clock: PageClock;
  onEnd: (id: string) => void;
}) {
  if (sessions.length === 0) return <p className="text-muted">Nowhere.</p>;
  return (
    <ul className="max-h-96 overflow-y-auto">
      {sessions.map(({ id, address, browser, begun, isThis }) => (
        <li key={id} className="flex items-baseline justify-between gap-3 border-b border-hair py-1.5">
          <span className="min-w-0">
            {browserWords(browser)}
            {isThis && <span className="text-muted">, this one</span>}
            <span className="block text-small text-muted">
              since {formatMoment(begun, readBy(clock))}
              {address && `, from ${address}`}
            </span>
          </span>
          {!isThis && (
            <Button look="quiet" onClick={() => onEnd(id)}>
              Sign out
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
