import type { Step } from '#core/dataset/step/schema.ts';
import { ConditionEditor } from '../condition-editor.tsx';
import { FillForm, RenameForm, TypeForm } from './field-forms.tsx';
import { LookUpForm } from './look-up-form.tsx';
import { MakingForm } from './making-form.tsx';
import { FieldsOrder } from './parts.tsx';
import { DistinctForm, RankForm, RunningForm } from './record-forms.tsx';
import { LongForm, PeriodsForm, StackForm, SummariseForm, UnfoldForm, WideForm } from './reshape-forms.tsx';
import { SpreadForm } from './spread-form.tsx';
import type { StepFormProps } from './step-props.ts';

/** What a step is told, opened under its sentence. */
export function StepForm(props: StepFormProps) {
  const { step } = props;
  // Each form is given the step of its own kind; TypeScript cannot follow that through one spread.
  const of = <S extends Step>(narrowed: S): StepFormProps<S> =>
    ({ ...props, step: narrowed }) as unknown as StepFormProps<S>;
  switch (step.kind) {
    case 'fields':
      return (
        <FieldsOrder
          fields={props.fields}
          value={step.keep}
          onChange={(keep) => props.onChange({ ...step, keep })}
        />
      );
    case 'rename':
      return <RenameForm {...of(step)} />;
    case 'type':
      return <TypeForm {...of(step)} />;
    case 'where':
      return (
        <ConditionEditor
          label="Keep records where"
          fields={props.fields}
          inputs={props.definition.inputs.map(({ name }) => name)}
          value={step.condition}
          onChange={(condition) => props.onChange({ ...step, condition: condition ?? { all: [] } })}
        />
      );
    case 'derive':
      return <MakingForm {...of(step)} />;
    case 'lookUp':
      return <LookUpForm {...of(step)} />;
    case 'unfold':
      return <UnfoldForm {...of(step)} />;
    case 'spread':
      return <SpreadForm {...of(step)} />;
    case 'stack':
      return <StackForm {...of(step)} />;
    case 'distinct':
      return <DistinctForm {...of(step)} />;
    case 'fill':
      return <FillForm {...of(step)} />;
    case 'summarise':
      return <SummariseForm {...of(step)} />;
    case 'rank':
      return <RankForm {...of(step)} />;
    case 'running':
      return <RunningForm {...of(step)} />;
    case 'periods':
      return <PeriodsForm {...of(step)} />;
    case 'wide':
      return <WideForm {...of(step)} />;
    case 'long':
      return <LongForm {...of(step)} />;
  }
}
