import type { Lane, TracePane } from '#core/dashboard/pane/kinds/trace/schema.ts';
import { followable, laneOf } from '#core/dashboard/pane/kinds/trace/suggest.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Button } from '../../ui/button.tsx';
import { Choices } from '../../ui/choices.tsx';
import { ColumnList } from '../../ui/column-list.tsx';
import { TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { offeredColumns, type PaneBrief, type SlotProps } from '../slot.ts';

const mostLanes = 8;

/** The slots of a trace's brief: its systems, what is a long gap, and what is expected. */
function TraceSlot(props: SlotProps<TracePane>) {
  const { slot, pane, dataSets } = props;
  if (slot === 'gap') return <GapSlot {...props} />;
  if (slot === 'expects') return <ExpectsSlot {...props} />;
  const at = slot.startsWith('lane:') ? Number(slot.slice('lane:'.length)) : -1;
  const lane = pane.lanes[at];
  const dataSet = lane && dataSets.get(lane.dataSet);
  return lane && dataSet ? (
    <LaneSlot {...props} at={at} lane={lane} dataSet={dataSet} />
  ) : (
    <LanesSlot {...props} />
  );
}

/** Which systems it goes through, in the order of their lanes. */
function LanesSlot({ pane, dataSets, names, onChange }: SlotProps<TracePane>) {
  const offered = followable(
    pane.about.meaning,
    [...dataSets].map(([id, dataSet]) => ({ id, name: names.get(id) ?? id, dataSet })),
  );
  return (
    <ColumnList
      offered={offered.map(({ id, name }) => ({ name: id, label: name }))}
      chosen={pane.lanes.map(({ dataSet }) => dataSet)}
      onChange={(ids) => {
        const lanes = ids.slice(0, mostLanes).flatMap((id): Lane[] => {
          const known = pane.lanes.find(({ dataSet }) => dataSet === id);
          const found = offered.find((each) => each.id === id);
          const lane = known ?? (found ? laneOf(found, pane.about.meaning) : null);
          return lane ? [lane] : [];
        });
        if (lanes.length > 0) onChange(withLanes(pane, lanes));
      }}
    />
  );
}

/** What is expected goes with its lanes, wherever they stand now. */
function withLanes(pane: TracePane, lanes: Lane[]): TracePane {
  const placeOf = (at: number): number => lanes.findIndex((lane) => lane.dataSet === pane.lanes[at]?.dataSet);
  return {
    ...pane,
    lanes,
    expects: pane.expects
      .map((each) => ({ ...each, lane: placeOf(each.lane), after: placeOf(each.after) }))
      .filter(({ lane, after }) => lane >= 0 && after >= 0),
  };
}

/** One system: which of its fields say what. */
function LaneSlot({
  pane,
  at,
  lane,
  dataSet,
  onChange,
}: SlotProps<TracePane> & { at: number; lane: Lane; dataSet: DataSet }) {
  const put = (next: Lane): void =>
    onChange({ ...pane, lanes: pane.lanes.map((each, index) => (index === at ? next : each)) });
  const visible = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const choices = (of: readonly Field[], none?: string) => [
    ...(none === undefined ? [] : [{ value: '', words: none }]),
    ...of.map((field) => ({ value: field.name, words: labelOf(field).toLowerCase() })),
  ];
  const moments = visible.filter(({ type }) => type === 'instant');
  const optional = (part: 'clock' | 'outcome' | 'words') => (chosen: string) => {
    const { [part]: _, ...rest } = lane;
    put(chosen ? { ...rest, [part]: chosen } : rest);
  };
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="Called"
        value={lane.name}
        maxLength={60}
        onChange={({ target }) => target.value && put({ ...lane, name: target.value })}
      />
      <SelectField
        label="Its moment"
        value={lane.at}
        onChange={(chosen) => put({ ...lane, at: chosen })}
        choices={choices(moments)}
      />
      <SelectField
        label="By the clock of the machine"
        hint="Where that may be wrong, and the moment is put right."
        value={lane.clock ?? ''}
        onChange={optional('clock')}
        choices={choices(moments, 'the same')}
      />
      <SelectField
        label="Its outcome"
        value={lane.outcome ?? ''}
        onChange={optional('outcome')}
        choices={choices(visible, 'none')}
      />
      <SelectField
        label="What happened"
        value={lane.words ?? ''}
        onChange={optional('words')}
        choices={choices(visible, 'the name of the system')}
      />
      <TextField
        label="Link to another tool"
        hint="An address with fields in braces, and {from}, {at}, {to}: https://logs.example/q{?from,to}"
        value={lane.link ?? ''}
        maxLength={2000}
        onChange={({ target }) => {
          const { link: _, ...rest } = lane;
          put(target.value ? { ...rest, link: target.value } : rest);
        }}
      />
      {lane.link && (
        <TextField
          label="Minutes around it"
          type="number"
          min={0}
          max={100_000}
          value={pane.span}
          onChange={({ target }) =>
            onChange({ ...pane, span: Math.min(100_000, Math.max(0, Math.trunc(target.valueAsNumber) || 0)) })
          }
        />
      )}
      <span className="text-small font-strong text-slate">Shown when it is opened</span>
      <ColumnList
        offered={offeredColumns(dataSet)}
        chosen={lane.fields}
        onChange={(fields) => put({ ...lane, fields: fields.slice(0, 12) })}
      />
    </div>
  );
}

const gaps = [
  { seconds: 10, words: '10 s or more' },
  { seconds: 60, words: '1 min or more' },
  { seconds: 600, words: '10 min or more' },
  { seconds: 3600, words: '1 h or more' },
  { seconds: 86_400, words: '1 day or more' },
];

function GapSlot({ pane, onChange, onDone }: SlotProps<TracePane>) {
  const { longGap, ...rest } = pane;
  return (
    <Choices
      choices={[
        { value: '', words: 'the slowest tenth', more: 'What nine of ten gaps are shorter than' },
        ...gaps.map(({ seconds, words }) => ({ value: String(seconds), words })),
      ]}
      now={longGap === undefined ? '' : String(longGap)}
      onChoose={(value) => {
        onChange(value ? { ...rest, longGap: Number(value) } : rest);
        onDone();
      }}
    />
  );
}

/** What should follow what, and how soon. */
function ExpectsSlot({ pane, onChange }: SlotProps<TracePane>) {
  const { expects, lanes } = pane;
  const choices = lanes.map(({ name }, at) => ({ value: String(at), words: name }));
  const put = (at: number, change: Partial<TracePane['expects'][number]>): void =>
    onChange({
      ...pane,
      expects: expects.map((each, index) => (index === at ? { ...each, ...change } : each)),
    });
  return (
    <div className="flex flex-col gap-3">
      {expects.map(({ lane, after, minutes }, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two may be alike while they are being chosen
        <div key={at} className="grid grid-cols-[1fr_5rem_1fr_auto] items-end gap-2">
          <SelectField
            label="Expect"
            value={String(lane)}
            onChange={(chosen) => put(at, { lane: Number(chosen) })}
            choices={choices}
          />
          <TextField
            label="Within, min"
            type="number"
            min={1}
            max={100_000}
            value={minutes}
            onChange={({ target }) =>
              put(at, { minutes: Math.min(100_000, Math.max(1, Math.trunc(target.valueAsNumber) || 1)) })
            }
          />
          <SelectField
            label="Of the first"
            value={String(after)}
            onChange={(chosen) => put(at, { after: Number(chosen) })}
            choices={choices}
          />
          <Button
            look="quiet"
            onClick={() => onChange({ ...pane, expects: expects.filter((_, index) => index !== at) })}
          >
            Remove
          </Button>
        </div>
      ))}
      <Button
        className="self-start"
        disabled={lanes.length < 2 || expects.length >= 20}
        onClick={() =>
          onChange({ ...pane, expects: [...expects, { lane: lanes.length - 1, after: 0, minutes: 30 }] })
        }
      >
        Expect something
      </Button>
    </div>
  );
}

export const trace: PaneBrief<TracePane> = { Slot: TraceSlot };
