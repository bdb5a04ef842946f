import type { Mark } from '#core/dataset/log/formats.ts';
import { counted } from '#core/value/format/counted.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Trial } from '#sources/kind.ts';
import { Scroll } from '../../../ui/scroll.tsx';

type Lines = NonNullable<Trial['lines']>;

/** Sample lines with their fields marked in them, how many fit, and those that do not. */
export function LineSample({ lines }: { lines: Lines }) {
  const { sample, matched, missed } = lines;
  const odd = sample.filter(({ marks }) => marks === null);
  return (
    <div className="mb-4 flex flex-col gap-2">
      <p className="figures text-small" role="status">
        <span className="font-strong">{counted(matched, 'line')}</span> {matched === 1 ? 'fits' : 'fit'}
        {missed > 0 ? (
          <span className="font-strong text-slipping">
            {' '}
            · {formatNumber(String(missed))} {missed === 1 ? 'does' : 'do'} not
          </span>
        ) : (
          ', all that were tried'
        )}
        {lines.files.length > 0 && (
          <span className="text-muted">
            {' '}
            ·{' '}
            {lines.files.length === 1
              ? lines.files[0]
              : `${lines.files.length} files, the latest ${lines.files[0]}`}
          </span>
        )}
      </p>
      <Scroll label="Sample lines" className="max-h-72 border-y border-hair py-1">
        <ol className="font-mono text-small leading-6">
          {[...odd, ...sample.filter(({ marks }) => marks !== null)].map(({ text, marks }, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines may be equal
            <li key={index} className="flex min-w-max gap-2">
              <span className={`w-4 shrink-0 text-center ${marks ? 'text-settled' : 'text-slipping'}`}>
                <span aria-hidden="true">{marks ? '●' : '▲'}</span>
                <span className="sr-only">{marks ? 'fits' : 'does not fit'}</span>
              </span>
              <span className="whitespace-pre">{marks ? <Marked text={text} marks={marks} /> : text}</span>
            </li>
          ))}
        </ol>
      </Scroll>
    </div>
  );
}

/** A line with its fields underlined, every other one on a ground of its own. */
function Marked({ text, marks }: { text: string; marks: readonly Mark[] }) {
  const pieces: { text: string; field: string | null; at: number }[] = [];
  let at = 0;
  for (const { field, from, to } of marks) {
    if (from >= text.length) break;
    if (from > at) pieces.push({ text: text.slice(at, from), field: null, at });
    pieces.push({ text: text.slice(from, to), field, at: from });
    at = to;
  }
  if (at < text.length) pieces.push({ text: text.slice(at), field: null, at });
  return (
    <>
      {pieces.map((piece) =>
        piece.field === null ? (
          <span key={piece.at} className="text-muted">
            {piece.text}
          </span>
        ) : (
          <mark
            key={piece.at}
            title={piece.field}
            className="rounded-[2px] bg-wash text-ink underline decoration-accent decoration-1 underline-offset-4"
          >
            {piece.text}
          </mark>
        ),
      )}
    </>
  );
}
