import Lock from 'lucide-react/icons/lock';
import type { OfferedAction, Offers } from '#core/change/offers.ts';
import { allCounted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { Button } from '../ui/button.tsx';

/** The actions of a list, for the records that are marked in it, or for all that it shows. */
export function ActBar({
  offers: { actions, refusal },
  marked,
  total,
  noun,
  onAct,
  onMarkAll,
  onUnmark,
}: {
  offers: Offers;
  /** The keys of those that are marked; `all`: every record of the list, on whatever page. */
  marked: ReadonlySet<string> | 'all';
  /** How many records the list has, as exact text; null while that is counted. */
  total: string | null;
  noun: { readonly one: string; readonly many: string };
  onAct: (action: string) => void;
  /** Null where those of other pages cannot be. */
  onMarkAll: (() => void) | null;
  onUnmark: () => void;
}) {
  if (actions.length === 0) return null;
  if (refusal !== null) return <Refusal why={refusal} />;
  const count = marked === 'all' ? null : marked.size;
  const isFor = ({ way, most }: OfferedAction): boolean =>
    way === 'insert' || count === null || (count > 0 && count <= most);
  const lacking = ({ most }: OfferedAction): string =>
    count === 0 ? `Mark ${noun.many} first` : `It may be done to ${formatNumber(String(most))} at once`;
  return (
    <div
      role="toolbar"
      aria-label={`What can be done to ${noun.many}`}
      className="no-print flex flex-wrap items-center gap-x-2 gap-y-1 pt-1"
    >
      {actions.map((action) => (
        <Button
          key={action.name}
          disabled={!isFor(action)}
          title={isFor(action) ? undefined : lacking(action)}
          onClick={() => onAct(action.name)}
        >
          {action.label}
        </Button>
      ))}
      <span className="figures ml-1 text-small text-muted" role="status">
        {count === null
          ? `${total === null ? `all ${noun.many}` : allCounted(total, noun.one, noun.many)} ${total === '1' ? 'is' : 'are'} marked`
          : count === 0
            ? 'none is marked'
            : `${formatNumber(String(count))} ${count === 1 ? 'is' : 'are'} marked`}
      </span>
      {count !== 0 ? (
        <Button look="quiet" onClick={onUnmark}>
          Unmark
        </Button>
      ) : (
        onMarkAll && (
          <Button look="quiet" onClick={onMarkAll}>
            Mark all{total === null ? '' : ` ${formatNumber(total)}`}
          </Button>
        )
      )}
    </div>
  );
}

/** The actions of one record. */
export function RecordActs({
  offers: { actions, refusal },
  isQuiet = false,
  onAct,
}: {
  offers: Offers;
  /** One of many: that somebody may not is said elsewhere. */
  isQuiet?: boolean;
  onAct: (action: string) => void;
}) {
  const own = actions.filter(({ way }) => way !== 'insert');
  if (own.length === 0 || (isQuiet && refusal !== null)) return null;
  if (refusal !== null) return <Refusal why={refusal} />;
  return (
    <div role="toolbar" aria-label="What can be done to it" className="no-print flex flex-wrap gap-2 pt-2">
      {own.map(({ name, label }) => (
        <Button key={name} onClick={() => onAct(name)}>
          {label}
        </Button>
      ))}
    </div>
  );
}

export function Refusal({ why }: { why: string }) {
  return (
    <p className="no-print flex items-center gap-1.5 pt-1 text-small text-muted">
      <Lock className="size-3.5 shrink-0" aria-hidden="true" /> {why}
    </p>
  );
}
