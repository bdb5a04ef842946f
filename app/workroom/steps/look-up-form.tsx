import { useEffect, useRef } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import { likelyPair } from '#core/dataset/step/likeness.ts';
import type { Ref, StepOf } from '#core/dataset/step/schema.ts';
import { lookUpModes } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { listWords } from '#core/words/condition.ts';
import type { MatchFigures, Near } from '#server/shape/look-up.ts';
import { Button } from '../../ui/button.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { CalculationForm } from './calculation-form.tsx';
import { freeFieldName, titleOf } from './new-step.ts';
import { FieldChoice, NameField, NameInput, OrderList, RowList } from './parts.tsx';
import type { StepFormProps } from './step-props.ts';
import { useShape } from './use-shape.ts';

const mostPairs = 5;

const modeWords: Record<(typeof lookUpModes)[number], string> = {
  one: 'the one match',
  first: 'the first by an order',
  count: 'how many there are',
  aggregate: 'a figure of them',
  any: 'whether there is any',
  all: 'all of them, as a list',
};

/** A data set, or a subset of one. */
export function RefSelect({
  label,
  value,
  world,
  names,
  own,
  onChange,
}: {
  label: string;
  value: Ref;
  world: ReadonlyMap<string, DataSet>;
  names: ReadonlyMap<string, string>;
  own: string;
  onChange: (ref: Ref) => void;
}) {
  const text = ({ dataSet, subset }: Ref): string =>
    subset === undefined ? dataSet : `${dataSet} ${subset}`;
  return (
    <SelectField
      label={label}
      value={text(value)}
      onChange={(chosen) => {
        const [dataSet = '', ...subset] = chosen.split(' ');
        onChange(subset.length === 0 ? { dataSet } : { dataSet, subset: subset.join(' ') });
      }}
      choices={[
        ...(world.has(value.dataSet)
          ? []
          : [{ value: text(value), words: 'a data set that no longer exists' }]),
        ...[...world]
          .filter(([id]) => id !== own)
          .flatMap(([id, dataSet]) => [
            { value: id, words: names.get(id) ?? dataSet.noun.many },
            ...(dataSet.subsets ?? []).map((subset) => ({
              value: `${id} ${subset.name}`,
              words: `${names.get(id)}: ${subset.label}`,
            })),
          ]),
      ]}
    />
  );
}

/** Which data set, by which fields, and what is brought; with what it would find, over all records, before it is used. */
export function LookUpForm({
  step,
  fields,
  id,
  definition,
  at,
  world,
  names,
  isFresh,
  onChange,
}: StepFormProps<StepOf<'lookUp'>>) {
  const other = world.get(step.from.dataSet);
  const isReady = other !== undefined && step.on.every(({ field, other: of }) => field && of);
  const matches = useShape(id, definition, isReady ? { kind: 'matches', steps: at, step } : null);
  const near = useShape(id, definition, { kind: 'near', steps: at });
  const theirs = other?.fields ?? [];
  const brings = step.mode === 'one' || step.mode === 'first' || step.mode === 'all';
  const untaken = theirs.find(({ name }) => !step.take.some(({ field }) => field === name));
  const named = [...fields, ...step.take.map(({ as }): Field => ({ name: as, type: 'text' }))];
  const put = (next: Partial<StepOf<'lookUp'>>): void => onChange({ ...step, ...next });
  const chooseFrom = (from: Ref, pair?: { field: string; other: string }): void => {
    const next = world.get(from.dataSet);
    const on =
      pair ??
      near.found?.find((each) => each.dataSet === from.dataSet) ??
      likelyPair(fields, next ?? { fields: [] });
    const title = next && titleOf(next, on.other);
    put({
      from,
      on: [{ field: on.field, other: on.other }],
      take: title ? [{ field: title, as: freeFieldName(title, fields) }] : [],
      order: [],
    });
  };
  // A step that has just been added and that nobody has touched goes by the best pair, once that has been measured.
  const begun = useRef(JSON.stringify(step));
  const isTouched = useRef(false);
  const touch = (): void => {
    isTouched.current = true;
  };
  const goBy = useRef<(found: readonly Near[], now: MatchFigures) => void>(() => undefined);
  goBy.current = (found, { matched, records }) => {
    const pair = found.find((each) => world.get(each.dataSet)?.key === each.other);
    // Only what identifies a record finds the one match that the step begins with. What was guessed stays where it holds about as well as the best.
    const isGood = Number(matched) * 2 >= Number(records) * (pair?.overlap ?? 0);
    if (isFresh && pair && !isGood && !isTouched.current && JSON.stringify(step) === begun.current)
      chooseFrom({ dataSet: pair.dataSet }, pair);
  };
  const [measured, now] = [near.found, matches.found];
  useEffect(() => {
    if (measured && now) goBy.current(measured, now);
  }, [measured, now]);
  const chooseMode = (mode: StepOf<'lookUp'>['mode']): void => {
    const { as: _, calculation: __, ...rest } = step;
    const many = other?.noun.many ?? 'matches';
    onChange({
      ...rest,
      mode,
      order: mode === 'first' && step.order.length === 0 && theirs[0] ? [{ by: theirs[0].name }] : step.order,
      ...(mode === 'one' || mode === 'first'
        ? {}
        : { as: step.as ?? freeFieldName(mode === 'any' ? `has ${many}` : many, fields) }),
      ...(mode === 'aggregate' ? { calculation: { kind: 'count' } } : {}),
    });
  };
  return (
    <div
      className="flex flex-col gap-3"
      onPointerDownCapture={touch}
      onKeyDownCapture={({ key }) => key !== 'Tab' && touch()}
    >
      {near.found && near.found.length > 0 && (
        <div className="text-small">
          <p className="mb-1 text-muted">Values that stand in both:</p>
          <div className="flex flex-wrap gap-1.5">
            {near.found.map((each) => (
              <Button
                key={`${each.dataSet} ${each.other} ${each.field}`}
                onClick={() =>
                  chooseFrom({ dataSet: each.dataSet }, { field: each.field, other: each.other })
                }
              >
                {labelOf(fields.find(({ name }) => name === each.field) ?? { name: each.field })} in{' '}
                {names.get(each.dataSet)} · {formatNumber(String(Math.round(each.overlap * 1000) / 10))}%
              </Button>
            ))}
          </div>
        </div>
      )}
      <RefSelect
        label="Look up in"
        value={step.from}
        world={world}
        names={names}
        own={id}
        onChange={(from) => chooseFrom(from)}
      />
      <RowList
        legend="Where these are equal"
        rows={step.on}
        removeLabel="Remove this pair"
        least={1}
        more={
          step.on.length < mostPairs
            ? { words: 'And another', make: () => step.on.at(-1) ?? { field: '', other: '' } }
            : null
        }
        onChange={(on) => put({ on })}
        row={(pair, change) => (
          <>
            <FieldChoice
              label="Our field"
              fields={fields}
              value={pair.field}
              onChange={(field) => change({ ...pair, field })}
            />
            <span className="text-muted">=</span>
            <FieldChoice
              label="Their field"
              fields={theirs}
              value={pair.other}
              onChange={(other) => change({ ...pair, other })}
            />
          </>
        )}
      />
      <Matches
        found={matches.found}
        problem={matches.problem?.why}
        mode={step.mode}
        many={definition.noun.many}
        onFirst={() => chooseMode('first')}
      />
      <SelectField
        label="Bring"
        value={step.mode}
        onChange={chooseMode}
        choices={lookUpModes.map((mode) => ({ value: mode, words: modeWords[mode] }))}
      />
      {brings && (
        <RowList
          legend="Fields"
          rows={step.take}
          removeLabel="Leave this out"
          least={1}
          more={
            untaken
              ? {
                  words: 'One more field',
                  make: () => ({ field: untaken.name, as: freeFieldName(untaken.name, named) }),
                }
              : null
          }
          onChange={(take) => put({ take })}
          row={(taken, change) => (
            <>
              <FieldChoice
                label="Bring the field"
                fields={theirs}
                value={taken.field}
                onChange={(field) => change({ field, as: freeFieldName(field, fields) })}
              />
              <NameInput value={taken.as} onChange={(as) => change({ ...taken, as })} />
            </>
          )}
        />
      )}
      {(step.mode === 'first' || step.mode === 'all') && (
        <OrderList
          label="In the order of"
          fields={theirs}
          value={step.order}
          onChange={(order) => put({ order })}
        />
      )}
      {step.mode === 'aggregate' && (
        <CalculationForm
          label="Work out"
          fields={theirs}
          value={step.calculation ?? { kind: 'count' }}
          onChange={(calculation) => put({ calculation })}
        />
      )}
      {step.mode !== 'one' && step.mode !== 'first' && (
        <NameField label="Called" value={step.as ?? ''} onChange={(as) => put({ as })} />
      )}
    </div>
  );
}

const examples = (list: MatchFigures['without']): string =>
  listWords(
    list
      .slice(0, 3)
      .map(({ value, count }) => `${value === null ? 'blank' : `“${value}”`} (${formatNumber(count, 0)})`),
  );

/** What a look-up finds: those with a match, without one, and with several. */
function Matches({
  found,
  problem,
  mode,
  many,
  onFirst,
}: {
  found: MatchFigures | undefined;
  problem: string | undefined;
  mode: StepOf<'lookUp'>['mode'];
  many: string;
  onFirst: () => void;
}) {
  if (problem) return <p className="text-small text-broken">{problem}</p>;
  if (!found) return <p className="text-small text-muted">Comparing all records …</p>;
  const number = (text: string): string => formatNumber(text, 0);
  const have = (count: string): string => (count === '1' ? 'has' : 'have');
  return (
    <dl className="figures grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5 text-small" aria-live="polite">
      <dt className="text-right">{number(found.matched)}</dt>
      <dd className="text-muted">
        of the {many} {have(found.matched)} a match
      </dd>
      <dt className={`text-right ${found.unmatched === '0' ? '' : 'text-slipping'}`}>
        {number(found.unmatched)}
      </dt>
      <dd className="text-muted">
        {have(found.unmatched)} none{found.without.length > 0 && `, such as ${examples(found.without)}`}
      </dd>
      <dt className={`text-right ${found.several === '0' || mode !== 'one' ? '' : 'text-broken'}`}>
        {number(found.several)}
      </dt>
      <dd className="text-muted">
        {have(found.several)} several
        {found.withSeveral.length > 0 && `, such as ${examples(found.withSeveral)}`}
        {mode === 'one' && found.several !== '0' && (
          <Button className="ml-2" onClick={onFirst}>
            Take the first by an order
          </Button>
        )}
      </dd>
    </dl>
  );
}
