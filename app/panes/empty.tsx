import type { Loosen } from '#core/dashboard/pane/shown.ts';
import { formatNumber } from '#core/value/format/format.ts';

/** Says that nothing matches, and which clause to loosen. */
export function Empty({
  noun,
  loosen = [],
  onLoosen,
}: {
  noun: string;
  loosen?: readonly Loosen[] | undefined;
  onLoosen: (clause: string) => void;
}) {
  return (
    <div className="flex flex-1 flex-col items-start justify-center gap-1.5 py-3">
      <p className="text-slate">No {noun} match.</p>
      {loosen.map(({ name, words, count }) =>
        name === undefined ? (
          <p key={words} className="text-small text-muted">
            Without “{words}” there would be {formatNumber(count)}.
          </p>
        ) : (
          <button key={words} type="button" className="slot text-small" onClick={() => onLoosen(name)}>
            Remove “{words}”: {formatNumber(count)} {noun}
          </button>
        ),
      )}
    </div>
  );
}
