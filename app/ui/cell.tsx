import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { bandOf } from '#core/value/field/band-of.ts';
import type { Cell } from '#core/value/field/value.ts';
import { isNumeric } from '#core/value/field/value.ts';
import { blank, formatCell, type ReadBy } from '#core/value/format/format.ts';
import { StateMark } from './state-mark.tsx';

/** Only pictures that we can show without asking another server. */
const isPicture = (text: string): boolean => /^data:image\/(svg\+xml|png|jpeg|webp);/.test(text);
const isWebLink = (text: string): boolean => /^https?:\/\//i.test(text);

/** Numbers stand to the right so that their digits line up; identifiers are words. */
export const isFigure = (field: Pick<ShownField, 'type' | 'format' | 'states'>): boolean =>
  isNumeric(field.type) && field.format?.kind !== 'id' && !field.states;

/** One value, written the one way that values are written; where there is room, its band in words and its picture in full. */
export function CellView({
  cell,
  field,
  clock,
  large = false,
}: {
  cell: Cell | undefined;
  field: ShownField;
  clock: ReadBy;
  large?: boolean;
}) {
  const text = formatCell(cell, field, clock);
  if (cell === null || cell === undefined) return <span className="text-muted">{blank}</span>;
  const state = field.states?.find(({ value }) => value === String(cell));
  if (state) return <StateMark tone={state.tone} word={state.word} />;
  if (field.format?.kind === 'picture' && isPicture(text))
    return <img src={text} alt="" className={large ? 'w-full max-w-3xl rounded-[4px]' : 'h-6'} />;
  if (field.format?.kind === 'link' && isWebLink(text))
    return (
      <a href={text} rel="noreferrer noopener" className="text-accent underline">
        {text}
      </a>
    );
  if (field.format?.kind === 'id') return <span className="font-mono">{text}</span>;
  const band = bandOf(cell, field.bands);
  if (!band) return <>{text}</>;
  if (large)
    return (
      <>
        {text} <StateMark tone={band.tone} word={band.word} />
      </>
    );
  return (
    <>
      {text}
      <span className="sr-only">, {band.word}</span>
    </>
  );
}
