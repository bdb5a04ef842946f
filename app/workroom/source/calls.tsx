import { formatDate, formatMoment, formatNumber } from '#core/value/format/format.ts';
import type { Allowance } from '#server/sources/budget.ts';
import { Section } from '../../ui/page.tsx';

interface Props {
  readonly allowance: Allowance;
  /** How many calls are allowed in a day; null where nothing says so. */
  readonly perDay: number | null;
  /** Those of the days before. */
  readonly days: readonly { readonly day: string; readonly spent: number }[];
  readonly zone: string;
}

/** What a service has been asked today and before, against what is allowed. */
export function Calls({ allowance, perDay, days, zone }: Props) {
  const { spent, leftThere, pausedUntil } = allowance;
  const left = perDay === null ? null : Math.max(0, perDay - spent);
  return (
    <Section title="Calls" note="Counted over all processes; a day begins at midnight (UTC).">
      <p className="text-lead">
        <span className="figures font-strong">{formatNumber(String(spent))}</span> today
        {left !== null && (
          <>
            , <span className="figures font-strong">{formatNumber(String(left))}</span> left of{' '}
            <span className="figures">{formatNumber(String(perDay))}</span>
          </>
        )}
        {leftThere !== null && (
          <span className="text-muted">
            {' '}
            · the service says {formatNumber(String(leftThere))} {leftThere === 1 ? 'is' : 'are'} left
          </span>
        )}
      </p>
      {pausedUntil && (
        <p className="text-small text-slipping">
          The service asked for no calls before {formatMoment(pausedUntil, zone)}.
        </p>
      )}
      <table className="mt-3 w-full max-w-xs">
        <tbody>
          {days.map(({ day, spent: of }) => (
            <tr key={day} className="border-b border-hair">
              <td className="py-1">{formatDate(day)}</td>
              <td className="figures py-1 text-right">{formatNumber(String(of))}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
