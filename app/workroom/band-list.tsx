import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { type Band, boundsProblem } from '#core/value/field/bands.ts';
import { tones } from '#core/value/field/types.ts';
import { asTyped, fromTyped } from '#core/value/number-style.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { ChoiceBox, plainChoices } from '../ui/choice.tsx';
import { smallBox } from '../ui/field.tsx';
import { StateMark } from '../ui/state-mark.tsx';

/** The choice of a range that nothing is to be said of. */
const noMark = 'no mark';
const toneChoices = [{ value: noMark, words: noMark }, ...plainChoices(tones)] as const;

/** Bands of a number: one range follows the other, so that they neither overlap nor leave any number out. */
export function BandList({
  of,
  bands,
  hint,
  onChange,
}: {
  /** What the numbers are of, for those who do not see where the list stands. */
  of: string;
  bands: readonly Band[];
  /** How a bound is typed, where that is not plain. */
  hint?: string | undefined;
  onChange: (bands: Band[]) => void;
}) {
  const put = (at: number, next: Band): void =>
    onChange(bands.map((band, index) => (index === at ? next : band)));
  const add = (): void =>
    onChange(
      bands.length === 0
        ? [{ mark: { word: 'poor', tone: 'broken' } }, { from: '' }]
        : [...bands, { from: '', mark: { word: '', tone: 'settled' } }],
    );
  const remove = (at: number): void => {
    const [first, ...others] = bands.filter((_, index) => index !== at);
    onChange(first && others.length > 0 ? [withFrom(first, undefined), ...others] : []);
  };
  const problem = bands.length > 0 ? boundsProblem(bands) : null;
  return (
    <fieldset className="min-w-0">
      <legend className="text-small font-strong text-slate">Bands</legend>
      <p className="text-small text-muted">
        {bands.length === 0
          ? 'Ranges of it with a word and a tone, such as “below 80: poor”. Panes mark the numbers that lie in them.'
          : (hint ?? 'Each range goes up to where the next one begins.')}
      </p>
      {bands.map((band, at) => {
        const name = `band ${at + 1} of ${of}`;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a band being typed has no other identity
          <div key={at} className="flex flex-wrap items-center gap-2 py-1">
            {at === 0 ? (
              <span className="w-32 text-small text-slate">
                {bands[1]?.from ? `Below ${asTyped(bands[1].from)}` : 'Below all others'}
              </span>
            ) : (
              <label className="flex w-32 items-center gap-1.5 text-small text-slate">
                From
                <input
                  aria-label={`Where ${name} begins`}
                  inputMode="decimal"
                  value={asTyped(band.from ?? '')}
                  maxLength={120}
                  onChange={({ target }) => put(at, withFrom(band, fromTyped(target.value.trim())))}
                  className={`${smallBox} w-20`}
                />
              </label>
            )}
            <ChoiceBox
              aria-label={`Tone of ${name}`}
              value={band.mark?.tone ?? noMark}
              onChange={(chosen) => {
                const tone = tones.find((each) => each === chosen);
                const { mark, ...range } = band;
                put(at, tone ? { ...range, mark: { word: mark?.word ?? '', tone } } : range);
              }}
              className={`${smallBox} w-28`}
              choices={toneChoices}
            />
            {band.mark && (
              <>
                <input
                  aria-label={`Word of ${name}`}
                  placeholder="word"
                  value={band.mark.word}
                  maxLength={200}
                  onChange={({ target }) =>
                    put(at, { ...band, mark: { tone: band.mark?.tone ?? 'settled', word: target.value } })
                  }
                  className={`${smallBox} w-28`}
                />
                <StateMark tone={band.mark.tone} word="" />
              </>
            )}
            <IconButton name={`Remove ${name}`} onClick={() => remove(at)}>
              <X className="size-4" />
            </IconButton>
          </div>
        );
      })}
      {problem && (
        <p role="status" className="text-small text-slipping">
          {problem}
        </p>
      )}
      <Button look="quiet" onClick={add} disabled={bands.length >= 20}>
        <Plus className="size-4" aria-hidden="true" /> {bands.length === 0 ? 'Bands' : 'A band'}
      </Button>
    </fieldset>
  );
}

/** A band that begins elsewhere; the first one begins nowhere. */
const withFrom = ({ from: _, ...band }: Band, from: string | undefined): Band =>
  from === undefined ? band : { from, ...band };
