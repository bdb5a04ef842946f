import { useState } from 'react';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { conditionWords } from '#core/words/condition.ts';
import { Button } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { Section } from '../ui/page.tsx';
import { ConditionEditor } from './condition-editor.tsx';

/** Who sees which records: everybody all of them, or each those of theirs. */
export function RowRule({
  definition,
  zone,
  busy,
  onChange,
}: {
  definition: DataSet;
  zone: string;
  busy: boolean;
  onChange: (rule: Condition | undefined) => void;
}) {
  const { rowRule, noun, fields } = definition;
  const [draft, setDraft] = useState<{ readonly value: Condition | undefined } | null>(null);
  return (
    <Section
      title="Who sees which records"
      note={`Holds at once, wherever these ${noun.many} go: dashboards that are published, files, data sets made of this one. Analysts and administrators always see all.`}
      action={
        draft === null &&
        !rowRule && <Button onClick={() => setDraft({ value: undefined })}>Limit to people’s own</Button>
      }
    >
      {draft ? (
        <form
          className="flex flex-col gap-3 border-l-3 border-accent py-1 pl-3"
          onSubmit={(event) => {
            event.preventDefault();
            onChange(draft.value);
            setDraft(null);
          }}
        >
          <ConditionEditor
            label={`Somebody sees ${noun.many} where`}
            fields={fields}
            value={draft.value}
            onChange={(value) => setDraft({ value })}
          />
          <p className="text-small text-muted">
            Compare a field with “what is theirs”: what an administrator has entered for each person under
            People, such as their terminals, or “groups” for the groups they are in. Whoever has nothing
            entered sees nothing.
          </p>
          <div className="flex gap-2">
            <Button type="submit" look="main" disabled={busy || draft.value === undefined}>
              Save the rule
            </Button>
            <Button look="quiet" onClick={() => setDraft(null)}>
              Cancel
            </Button>
          </div>
        </form>
      ) : rowRule ? (
        <div className="grid grid-cols-[1fr_auto] items-baseline gap-x-4 py-2">
          <span>
            {noun.many} where {conditionWords(rowRule, fields, zone)}
          </span>
          <span className="flex gap-1">
            <Button look="quiet" onClick={() => setDraft({ value: rowRule })}>
              Change
            </Button>
            <ConfirmRemove
              what="the rule"
              goesWith={[`Everybody who reads a dashboard of these ${noun.many} sees all of them, at once.`]}
              ending="It can be written again."
              trigger={<Button look="quiet">Remove</Button>}
              onRemove={() => onChange(undefined)}
            />
          </span>
        </div>
      ) : (
        <p className="text-muted">Everybody who may read a dashboard sees all of them.</p>
      )}
    </Section>
  );
}
