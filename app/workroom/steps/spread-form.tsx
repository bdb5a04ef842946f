import { useEffect, useRef } from 'react';
import type { StepOf } from '#core/dataset/step/schema.ts';
import { typeWords } from '#core/words/step.ts';
import { CheckField } from '../../ui/field.tsx';
import { freeFieldName } from './new-step.ts';
import { FieldSelect } from './parts.tsx';
import type { StepFormProps } from './step-props.ts';
import { useShape } from './use-shape.ts';

/** Which members of an object become fields; what there is, is found in the records. */
export function SpreadForm({ step, fields, id, definition, at, onChange }: StepFormProps<StepOf<'spread'>>) {
  const inside = useShape(
    id,
    definition,
    step.field ? { kind: 'inside', steps: at, field: step.field } : null,
  );
  const members = inside.found?.members ?? [];
  const others = fields.filter(({ name }) => name !== step.field);
  const taken = (list: typeof members): StepOf<'spread'>['take'] => {
    const names = [...others];
    return list.map(({ path, name, type }) => {
      const free = freeFieldName(name, names);
      names.push({ name: free, type });
      return { path, name: free, type };
    });
  };
  // A step that is new takes all that is found.
  const isNew = useRef(step.take.length === 0);
  useEffect(() => {
    if (!isNew.current || members.length === 0) return;
    isNew.current = false;
    onChange({ ...step, take: taken(members) });
  });
  return (
    <div className="flex flex-col gap-3">
      <FieldSelect
        label="Object"
        fields={fields.filter(({ type }) => type === 'nested')}
        value={step.field}
        onChange={(field) => {
          isNew.current = true;
          onChange({ ...step, field, take: [] });
        }}
      />
      {inside.busy && <p className="text-small text-muted">Looking into the records …</p>}
      {inside.found && members.length === 0 && (
        <p className="text-small text-muted">Nothing was found inside it in the first records.</p>
      )}
      <fieldset className="flex max-h-72 flex-col overflow-auto">
        <legend className="mb-1 text-small font-strong text-slate">Fields</legend>
        {members.map((member) => {
          const own = step.take.find(({ path }) => path === member.path);
          return (
            <CheckField
              key={member.path}
              checked={own !== undefined}
              onChange={({ target }) =>
                onChange({
                  ...step,
                  take: target.checked
                    ? [...step.take, ...taken([member])]
                    : step.take.filter(({ path }) => path !== member.path),
                })
              }
              label={
                <>
                  {own?.name ?? member.name}{' '}
                  <span className="text-small text-muted">{typeWords[member.type]}</span>
                </>
              }
            />
          );
        })}
      </fieldset>
      <CheckField
        label="Keep the object itself too"
        checked={step.keepWhole}
        onChange={({ target }) => onChange({ ...step, keepWhole: target.checked })}
      />
    </div>
  );
}
