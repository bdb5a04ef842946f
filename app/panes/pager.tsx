import ChevronLeft from 'lucide-react/icons/chevron-left';
import ChevronRight from 'lucide-react/icons/chevron-right';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { IconButton } from '../ui/button.tsx';

interface Props {
  readonly page: number;
  readonly size: number;
  /** Exact text; null while it is being counted. */
  readonly total: string | null;
  readonly shown: number;
  readonly noun: { readonly one: string; readonly many: string };
  readonly onPage: (page: number) => void;
}

/** Which records are shown, of how many. The buttons stand first: words that grow must not move them from under a hand. */
export function Pager({ page, size, total, shown, noun, onPage }: Props) {
  const from = (page - 1) * size + 1;
  const last = total === null ? null : Math.max(1, Math.ceil(Number(total) / size));
  const whole = total === null ? 'counting …' : counted(total, noun.one, noun.many);
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
        {shown === 0 || (last === 1 && total !== null)
          ? whole
          : `${formatNumber(String(from))} – ${formatNumber(String(from + shown - 1))} of ${whole}`}
      </span>
    </div>
  );
}
