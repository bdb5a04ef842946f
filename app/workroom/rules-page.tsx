import type { DataSet } from '#core/dataset/schema.ts';
import type { StoredCheck } from '#server/store/checks.ts';
import type { StoredDataSet } from '#server/store/data-sets.ts';
import { Checks } from './checks.tsx';
import { RowRule } from './row-rule.tsx';
import { SaveProblems, SaveState } from './save-bar.tsx';
import { Subsets } from './subsets.tsx';
import { useSave } from './use-save.ts';
import { ValuesFrom } from './value-pick.tsx';

interface Props {
  readonly stored: StoredDataSet;
  readonly results: readonly StoredCheck[];
  readonly zone: string;
}

/** Named subsets with their live counts, what is expected of the records, and who sees which of them. Each change is saved as it is made. */
export function RulesPage({ stored, results, zone }: Props) {
  const { id, name, definition } = stored;
  const saving = useSave(`/workroom/data-sets/${id}/save`, stored.revision);
  const save = (next: Partial<DataSet>): void =>
    saving.save({ id, name, definition: { ...definition, ...next } });
  const saveRule = (rowRule: DataSet['rowRule']): void => {
    const { rowRule: _, ...rest } = definition;
    saving.save({ id, name, definition: { ...rest, ...(rowRule ? { rowRule } : {}) } });
  };
  return (
    <>
      <p className="min-h-5 text-right">
        <SaveState saving={saving} isChanged={false} />
      </p>
      <SaveProblems saving={saving} zone={zone} />
      <ValuesFrom id={id} definition={definition} zone={zone}>
        <div className="grid gap-x-12 gap-y-10 lg:grid-cols-2">
          <Subsets id={id} definition={definition} zone={zone} onChange={(subsets) => save({ subsets })} />
          <Checks
            id={id}
            definition={definition}
            results={results}
            zone={zone}
            busy={saving.busy}
            onChange={(checks) => save({ checks })}
          />
          <RowRule definition={definition} zone={zone} busy={saving.busy} onChange={saveRule} />
        </div>
      </ValuesFrom>
    </>
  );
}
