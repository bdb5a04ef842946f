import type { Root } from 'mdast';
import { findAndReplace } from 'mdast-util-find-and-replace';
import { type ComponentProps, createContext, useContext, useMemo } from 'react';
import Markdown from 'react-markdown';
import { Link } from 'react-router';
import type { NoteBody, ShownValue } from '#core/dashboard/pane/kinds/note/kind.ts';
import type { NotePane } from '#core/dashboard/pane/kinds/note/schema.ts';
import { textNow, valuePattern, written } from '#core/dashboard/pane/kinds/note/text.ts';
import { bandOf } from '#core/value/field/band-of.ts';
import { formatCell, type ReadBy, withUnit } from '#core/value/format/format.ts';
import { Scroll } from '../../ui/scroll.tsx';
import { StateMark } from '../../ui/state-mark.tsx';
import type { PaneActions, PaneViewProps } from '../view.ts';

/** Puts live values where their names stand, as `data` elements that carry the name. */
const liveValues = () => (tree: Root) =>
  findAndReplace(tree, [
    valuePattern,
    (_: string, name: string) => ({
      type: 'text',
      value: name,
      data: { hName: 'data', hProperties: { value: name } },
    }),
  ]);

/** What a note says its live values with. */
const Said = createContext<{
  readonly values: NoteBody['values'];
  readonly clock: ReadBy;
  readonly actions: PaneActions;
} | null>(null);

function NamedValue({ value: name }: ComponentProps<'data'>) {
  const said = useContext(Said);
  if (!said) return null;
  const at = said.values.findIndex((each) => each.name === name);
  const value = said.values[at];
  return value ? (
    <LiveValue value={value} at={at} clock={said.clock} actions={said.actions} />
  ) : (
    <span className="text-slipping" title="There is no number of this name">
      {written(String(name))}
    </span>
  );
}

const OutwardLink = ({ href, children }: ComponentProps<'a'>) => (
  <a href={href} rel="noreferrer noopener" className="text-accent underline">
    {children}
  </a>
);

// The same at all times: what is drawn by others is drawn from nothing, and whoever was on a number of it by keyboard is nowhere.
const components = { a: OutwardLink, data: NamedValue };
const plugins = [liveValues];
const leftOut = ['img'];

/** A text with live values, each of which opens the records behind it. What it holds of HTML or pictures is left out. */
export function NoteView({ pane, body, clock, actions }: PaneViewProps<NotePane, NoteBody>) {
  const said = useMemo(() => ({ values: body.values, clock, actions }), [body.values, clock, actions]);
  const words = textNow(pane, body.values);
  const text = useMemo(
    () => (
      <Markdown
        skipHtml
        unwrapDisallowed
        disallowedElements={leftOut}
        remarkPlugins={plugins}
        components={components}
      >
        {words}
      </Markdown>
    ),
    [words],
  );
  return (
    <Scroll label={`${pane.title}, text`} className="note min-h-0 flex-initial">
      <Said value={said}>{text}</Said>
    </Scroll>
  );
}

function LiveValue({
  value: { name, value, measure, field },
  at,
  clock,
  actions,
}: {
  value: ShownValue;
  at: number;
  clock: ReadBy;
  actions: PaneActions;
}) {
  const text = field
    ? formatCell(value, field, clock)
    : withUnit(formatCell(value, measure, clock), measure.unit);
  const band = field ? null : bandOf(value, measure.bands);
  // Where there is no such value, there are no records of it.
  if (field && value === null) return <span className="text-muted">{text}</span>;
  return (
    <Link
      to={actions.hrefOf({ kind: 'behind', title: name, values: field ? [value] : [], measure: at })}
      preventScrollReset
      title={band ? `${name}: ${band.word}` : name}
      className="figures font-strong whitespace-nowrap text-ink decoration-line decoration-1 underline-offset-[0.22em] hover:text-accent hover:underline"
    >
      {text}
      {band && (
        <>
          {' '}
          <StateMark tone={band.tone} word="" />
          <span className="sr-only"> ({band.word})</span>
        </>
      )}
    </Link>
  );
}
