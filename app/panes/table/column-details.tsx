import { footingsOf, footingWords } from '#core/dashboard/pane/kinds/table/foot.ts';
import type { TableColumn } from '#core/dashboard/pane/kinds/table/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, labelOf } from '#core/value/field/value.ts';
import { CheckField, TextField } from '../../ui/field.tsx';
import { FormatFields } from '../../ui/format-fields.tsx';
import { SelectField } from '../../ui/select-field.tsx';

const width = { least: 40, most: 1200 };

/** One column of a table: its heading here, how wide it is, and how its values are written where that differs. */
export function ColumnDetails({
  column,
  field,
  onChange,
}: {
  column: TableColumn;
  field: Field;
  onChange: (column: TableColumn) => void;
}) {
  const put = <Part extends Exclude<keyof TableColumn, 'field' | 'hidden'>>(
    part: Part,
    next: TableColumn[Part],
  ): void => {
    const changed = { ...column, [part]: next };
    if (next === undefined || next === '' || next === false) delete changed[part];
    onChange(changed);
  };
  return (
    <div className="mb-3 grid grid-cols-2 gap-3 border-l-3 border-accent py-1 pl-4">
      <TextField
        label="Heading"
        placeholder={labelOf(field)}
        value={column.label ?? ''}
        maxLength={500}
        onChange={({ target }) => put('label', target.value)}
      />
      <TextField
        label="Width in pixels"
        type="number"
        placeholder="140"
        min={width.least}
        max={width.most}
        defaultValue={column.width}
        onBlur={({ target }) => {
          const pixels = Math.trunc(target.valueAsNumber);
          put(
            'width',
            Number.isNaN(pixels) ? undefined : Math.min(width.most, Math.max(width.least, pixels)),
          );
        }}
      />
      <SelectField
        label="Below it, of all records"
        value={column.foot ?? ''}
        choices={[
          { value: '', words: 'nothing' },
          ...footingsOf(field).map((footing) => ({
            value: footing,
            words: footing === 'distinct' ? 'how many different ones' : footingWords[footing],
          })),
        ]}
        onChange={(value) =>
          put(
            'foot',
            footingsOf(field).find((footing) => footing === value),
          )
        }
      />
      <div className="self-end">
        {isNumeric(field.type) ? (
          <CheckField
            label="A bar behind each number"
            checked={column.bar ?? false}
            onChange={({ target }) => put('bar', target.checked)}
          />
        ) : (
          <CheckField
            label="Long text goes on below"
            checked={column.wrap ?? false}
            onChange={({ target }) => put('wrap', target.checked)}
          />
        )}
      </div>
      {!field.states && (
        <FormatFields
          type={field.type}
          format={column.format}
          usual="as the data set says"
          onChange={(format) => put('format', format)}
        />
      )}
    </div>
  );
}
