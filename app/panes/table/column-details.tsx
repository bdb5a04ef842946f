import type { TableColumn } from '#core/dashboard/pane/kinds/table/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { TextField } from '../../ui/field.tsx';
import { FormatFields } from '../../ui/format-fields.tsx';

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
  const put = (part: 'label' | 'width' | 'format', said: TableColumn[typeof part] | undefined): void => {
    const { [part]: _, ...rest } = column;
    onChange(said === undefined || said === '' ? rest : { ...rest, [part]: said });
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
          const asked = Math.trunc(target.valueAsNumber);
          put('width', Number.isNaN(asked) ? undefined : Math.min(width.most, Math.max(width.least, asked)));
        }}
      />
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
