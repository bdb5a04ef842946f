import ChevronLeft from 'lucide-react/icons/chevron-left';
import ChevronRight from 'lucide-react/icons/chevron-right';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { IconButton } from '../ui/button.tsx';

interface Props {
  readonly page: number;
  readonly size: number;
  /** Exact text; null while it is being counted, and undefined where it cannot be. */
  readonly total: string | null | undefined;
  /** Whether there is a page after this one, where that is known before they are counted. */
  readonly more?: boolean;
  readonly shown: number;
  readonly noun: { readonly one: string; readonly many: string };
  readonly onPage: (page: number) => void;
}

/** Which records are shown, of how many. The buttons stand first: words that grow must not move them from under a hand. */
export function Pager({ page, size, total, more, shown, noun, onPage }: Props) {
  const from = (page - 1) * size + 1;
  const to = String(from + shown - 1);
  const known = total ?? (more === false && (shown > 0 || page === 1) ? to : null);
  const last = known === null ? null : Math.max(1, Math.ceil(Number(known) / size));
  const whole = known === null ? 'counting …' : counted(known, noun.one, noun.many);
  const part = `${formatNumber(String(from))} – ${formatNumber(to)}`;
  return (
    <div className="figures flex min-h-7 items-center gap-2 text-small text-muted">
      {(last === null || last > 1) && (
        <span className="no-print flex items-center">
          <IconButton name="Previous page" disabled={page <= 1} onClick={() => onPage(page - 1)}>
            <ChevronLeft className="size-4" />
          </IconButton>
          <IconButton
            name="Next page"
            disabled={last !== null && page >= last}
            onClick={() => onPage(page + 1)}
          >
            <ChevronRight className="size-4" />
          </IconButton>
        </span>
      )}
      <span aria-live="polite">
        {shown === 0 || last === 1
          ? whole
          : known === null && total === undefined
            ? part
            : `${part} of ${whole}`}
      </span>
    </div>
  );
}
