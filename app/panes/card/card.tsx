import Big from 'big.js';
import { Link } from 'react-router';
import { differenceOf } from '#core/dashboard/pane/difference.ts';
import type { CardBody } from '#core/dashboard/pane/kinds/card/kind.ts';
import type { CardPane } from '#core/dashboard/pane/kinds/card/schema.ts';
import { bandOf } from '#core/value/field/band-of.ts';
import { formatCell, formatNumber, isCurrency, type ReadBy, withUnit } from '#core/value/format/format.ts';
import { StateMark } from '../../ui/state-mark.tsx';
import type { PaneLook, PaneViewProps } from '../view.ts';
import { Spark } from './spark.tsx';

/** This many characters of a large number fit beside another card on a phone. */
const roomOnPhones = 7;

/** A number, its unit, and how it stands against the period before. The number opens the records behind it. */
function CardView({ pane, body, clock, actions }: PaneViewProps<CardPane, CardBody>) {
  const { measure, now } = body;
  const text = formatCell(now, measure, clock);
  const band = bandOf(now, measure.bands);
  return (
    <div className="flex min-w-0 flex-col items-start">
      {/* Where there is no room beside the number, what wraps is out of sight. */}
      <div className="flex h-11 w-full flex-wrap items-end gap-x-4 gap-y-6 overflow-hidden">
        <Link
          to={actions.hrefOf({ kind: 'behind', title: pane.title || measure.label, values: [] })}
          preventScrollReset
          className="rounded-[3px] text-left hover:text-accent"
          title={`The ${measure.label} behind this number`}
        >
          <span className="sr-only">{measure.label}: </span>
          <span
            className={`figures text-figure font-strong tracking-tight ${text.length > roomOnPhones ? 'max-sm:text-title' : ''}`}
          >
            {isCurrency(measure.unit) ? withUnit(text, measure.unit) : text}
          </span>
          {measure.unit && !isCurrency(measure.unit) && (
            <span className="ml-1.5 text-body text-muted">{measure.unit}</span>
          )}
          <span className="sr-only">, open the records behind this number</span>
        </Link>
        {body.trend && <Spark trend={body.trend} measure={measure} clock={clock} />}
      </div>
      {band && (
        <p className="text-small">
          <StateMark tone={band.tone} word={band.word} />
        </p>
      )}
      <Against body={body} clock={clock} />
    </div>
  );
}

function Against({
  body: { measure, now, before, beforeWords, trend },
  clock,
}: {
  body: CardBody;
  clock: ReadBy;
}) {
  // A trend marks it.
  const target =
    measure.target === undefined || trend ? null : `target ${formatCell(measure.target, measure, clock)}`;
  const difference = differenceOf(now, before);
  if (!difference) return target && <p className="text-small text-muted">{target}</p>;
  const isPercent = measure.format?.kind === 'percent';
  const size = difference.by.replace('-', '');
  const amount = isPercent
    ? `${formatNumber(new Big(size).times(100).toFixed(), 1)} points`
    : formatCell(size, measure, clock);
  const isGood =
    measure.good === undefined || difference.direction === 'same'
      ? null
      : measure.good === difference.direction;
  const tone = isGood === null ? 'text-slate' : isGood ? 'text-settled' : 'text-slipping';
  const less = measure.isCount ? 'fewer' : 'less';
  return (
    <p className="text-small text-muted">
      <span className={`font-strong ${tone}`}>
        {difference.direction === 'same'
          ? 'same as'
          : `${amount} ${difference.direction === 'up' ? 'more' : less} than`}
      </span>{' '}
      {beforeWords} ({formatCell(before, measure, clock)}){target && ` · ${target}`}
    </p>
  );
}

export const card: PaneLook<CardPane, CardBody> = { View: CardView, hasTwin: false, fills: 'little' };
