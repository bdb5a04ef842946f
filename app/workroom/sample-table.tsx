import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Trial } from '#sources/kind.ts';
import { RecordTable } from '../ui/record-table.tsx';

/** The first records of a request, with the type of each field and how long it took. */
export function SampleTable({
  tried,
  zone,
  labels = [],
  asTheyStand = false,
}: {
  tried: Trial;
  zone: string;
  labels?: readonly Field[];
  /** Texts of a file, shown as they are written there. */
  asTheyStand?: boolean;
}) {
  // As readers will see them where that has been said: in that order, with those labels, without what is hidden.
  const known = labels.filter(({ name }) => tried.fields.some((field) => field.name === name));
  const at = new Map(tried.fields.map(({ name }, index) => [name, index]));
  const fields = (known.length > 0 ? known.filter(({ hidden }) => !hidden) : tried.fields).map(
    (field): ShownField => ({
      ...field,
      label: labelOf(field),
      ...(asTheyStand ? { type: 'text' } : {}),
    }),
  );
  const types = new Map(tried.fields.map(({ name, type }) => [name, type]));
  return (
    <div>
      <p className="figures mb-1 text-small text-muted" role="status">
        {tried.records.length === 0
          ? 'No records'
          : `${tried.more ? 'First' : 'All'} ${tried.records.length}`}{' '}
        · {formatNumber(String(tried.took), 0)} ms
      </p>
      <RecordTable
        label="Records"
        className="max-h-[30rem]"
        fields={fields}
        records={tried.records.map((record) => fields.map(({ name }) => record[at.get(name) ?? -1]))}
        clock={zone}
        head={({ name, label }) => (
          <>
            {label}
            <span className="block font-normal text-muted">{types.get(name)}</span>
          </>
        )}
      />
    </div>
  );
}
