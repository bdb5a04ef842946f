import type { KeyboardEvent } from 'react';
import type { StepKindName } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatCell, formatNumber } from '#core/value/format/format.ts';
import { typeWords } from '#core/words/step.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import { Button } from '../../ui/button.tsx';
import { isFigure } from '../../ui/cell.tsx';
import { Popover } from '../../ui/popover.tsx';
import { RecordTable } from '../../ui/record-table.tsx';

interface Props {
  readonly fields: readonly Field[];
  readonly records: readonly (readonly Cell[])[];
  readonly profiles: ReadonlyMap<string, FieldProfile>;
  readonly zone: string;
  readonly busy: boolean;
  readonly onAdd: (kind: StepKindName, about: string) => void;
  readonly onTrace: (record: readonly Cell[]) => void;
}

/** The records at a step; over each field, what is in it. A cell opens the record's way through the steps. */
export function RecordsTable({ fields, records, profiles, zone, busy, onAdd, onTrace }: Props) {
  return (
    <>
      <RecordTable
        label="Records"
        className="max-h-[calc(100vh-17.5rem)] min-h-72 text-small"
        fields={fields.map((field) => ({ ...field, label: labelOf(field), format: cellFormat(field) }))}
        records={records}
        clock={zone}
        busy={busy}
        onKeyDown={moveBetweenCells}
        head={({ name }) => {
          const field = fields.find((each) => each.name === name);
          return field && <FieldHead field={field} profile={profiles.get(name)} zone={zone} onAdd={onAdd} />;
        }}
        cell={(content, { record, column }) => (
          <button
            type="button"
            tabIndex={column === 0 && record === 0 ? 0 : -1}
            className="block w-full truncate [text-align:inherit]"
            title={column === 0 ? 'Where this record comes from' : undefined}
            onClick={() => onTrace(records[record] ?? [])}
          >
            {content}
          </button>
        )}
      />
      {records.length === 0 && !busy && <p className="p-3 text-muted">No records at this step.</p>}
    </>
  );
}

/** The arrows go from cell to cell, so that the keyboard enters the table once and leaves it at once. */
function moveBetweenCells(event: KeyboardEvent<HTMLElement>): void {
  const cell = event.target instanceof HTMLElement ? event.target.closest('td') : null;
  const row = cell?.closest('tr');
  if (!cell || !row) return;
  const at = cell.cellIndex;
  const next =
    event.key === 'ArrowDown'
      ? (row.nextElementSibling as HTMLTableRowElement | null)?.cells[at]
      : event.key === 'ArrowUp'
        ? (row.previousElementSibling as HTMLTableRowElement | null)?.cells[at]
        : event.key === 'ArrowRight'
          ? row.cells[at + 1]
          : event.key === 'ArrowLeft'
            ? row.cells[at - 1]
            : undefined;
  if (!next) return;
  event.preventDefault();
  next.querySelector('button')?.focus();
}

/** Links and pictures stay text here: a cell is a button already. */
const cellFormat = ({ format }: Field): Field['format'] =>
  format?.kind === 'link' || format?.kind === 'picture' ? undefined : format;

const part = (some: string, all: string): number => (all === '0' ? 0 : (Number(some) / Number(all)) * 100);

function FieldHead({
  field,
  profile,
  zone,
  onAdd,
}: {
  field: Field;
  profile: FieldProfile | undefined;
  zone: string;
  onAdd: Props['onAdd'];
}) {
  const label = labelOf(field);
  return (
    <Popover
      label={label}
      trigger={
        <button
          type="button"
          className={`block w-full max-w-64 min-w-32 font-normal hover:bg-wash ${isFigure(field) ? 'text-right' : 'text-left'}`}
        >
          <span className="block truncate font-strong" title={field.name}>
            {label}
          </span>
          <span className="block truncate text-muted">{typeWords[field.type]}</span>
          <Spread profile={profile} />
          <span className="figures block h-[1.2em] truncate text-muted">{profile && brief(profile)}</span>
        </button>
      }
    >
      <FieldDetails field={field} profile={profile} zone={zone} onAdd={onAdd} />
    </Popover>
  );
}

function brief({ blank, records, distinct, about }: FieldProfile): string {
  const blanks = part(blank, records);
  const totalWords =
    blank === '0'
      ? ''
      : `${blanks < 0.1 ? 'a few' : `${formatNumber(String(Math.round(blanks * 10) / 10))}%`} blank · `;
  return `${totalWords}${about ? 'about ' : ''}${formatNumber(distinct, 0)} different`;
}

/** A small drawing of the spread of numbers and moments, or of the most frequent values; blanks take from the right. */
function Spread({ profile }: { profile: FieldProfile | undefined }) {
  const bars = profile
    ? profile.spread.length > 0
      ? profile.spread
      : profile.frequent.map(({ count }) => count)
    : [];
  const most = Math.max(1, ...bars.map(Number));
  const filled = profile ? 100 - part(profile.blank, profile.records) : 0;
  return (
    <span className="my-1 block" aria-hidden="true">
      <span className="flex h-6 items-end gap-px">
        {bars.map((count, at) => (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: the bars are a drawing
            key={at}
            className="min-w-0.5 flex-1 bg-slate/50"
            style={{ height: `${Math.max(count === '0' ? 0 : 6, (Number(count) / most) * 100)}%` }}
          />
        ))}
      </span>
      <span className="block h-[3px] bg-well">
        <span className="block h-full bg-accent" style={{ width: `${filled}%` }} />
      </span>
    </span>
  );
}

const quick: readonly [StepKindName, string, (field: Field) => boolean][] = [
  ['where', 'Keep only some', ({ type }) => type !== 'nested'],
  ['type', 'Change its type', () => true],
  ['rename', 'Rename it', () => true],
  ['fill', 'Fill its blanks', ({ type }) => type !== 'nested'],
  ['derive', 'Make a field of it', () => true],
  ['lookUp', 'Look up by it', ({ type }) => type === 'text' || type === 'integer'],
  ['unfold', 'Make records of its items', ({ type }) => type === 'nested'],
  ['spread', 'Make fields of its members', ({ type }) => type === 'nested'],
  ['distinct', 'Keep one record of each', ({ type }) => type !== 'nested'],
  ['fields', 'Leave out', () => true],
];

function FieldDetails({
  field,
  profile,
  zone,
  onAdd,
}: {
  field: Field;
  profile: FieldProfile | undefined;
  zone: string;
  onAdd: Props['onAdd'];
}) {
  const cell = (value: Cell): string => formatCell(value, field, zone);
  const number = (text: string): string => formatNumber(text, 0);
  const readable = profile?.readable
    ? Object.entries(profile.readable).filter(([, count]) => count !== '0')
    : [];
  return (
    <div className="flex flex-col gap-3 text-small">
      <p className="font-strong">{labelOf(field)}</p>
      {profile ? (
        <dl className="figures grid grid-cols-[auto_1fr] gap-x-3 gap-y-0.5">
          <dt className="text-muted">Records</dt>
          <dd>{number(profile.records)}</dd>
          <dt className="text-muted">Blank</dt>
          <dd>{number(profile.blank)}</dd>
          <dt className="text-muted">Different</dt>
          <dd>
            {profile.about && 'about '}
            {number(profile.distinct)}
          </dd>
          {profile.least !== null && (
            <>
              <dt className="text-muted">Least</dt>
              <dd className="truncate">{cell(profile.least)}</dd>
              <dt className="text-muted">Greatest</dt>
              <dd className="truncate">{cell(profile.greatest)}</dd>
            </>
          )}
          {readable.map(([type, count]) => (
            <span key={type} className="contents">
              <dt className="text-muted">
                Written as{' '}
                {type === 'local'
                  ? 'moments without a zone'
                  : type === 'padded'
                    ? 'codes with zeros in front'
                    : typeWords[type as 'integer']}
              </dt>
              <dd>{number(count)}</dd>
            </span>
          ))}
        </dl>
      ) : (
        <p className="text-muted">Being worked out over all records …</p>
      )}
      {profile && profile.frequent.length > 0 && (
        <table className="figures w-full">
          <caption className="text-left text-muted">Most frequent</caption>
          <tbody>
            {profile.frequent.map(({ value, count }) => (
              <tr key={String(value)} className="border-b border-hair">
                <td className="max-w-40 truncate py-0.5">{cell(value)}</td>
                <td className="text-right">{number(count)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="flex flex-wrap gap-1.5">
        {quick
          .filter(([, , fits]) => fits(field))
          .map(([kind, words]) => (
            <Button key={kind} onClick={() => onAdd(kind, field.name)}>
              {words}
            </Button>
          ))}
      </div>
    </div>
  );
}
