import { keepProblem } from '#core/dataset/keep-problem.ts';
import { type Keep, usualKeep } from '#core/dataset/kept/schema.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isNumeric, isTemporal, labelOf } from '#core/value/field/value.ts';
import type { SourceTraits } from '#server/sources/traits.ts';
import { CheckField, TextField } from '../ui/field.tsx';
import { Wrong } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';

/** Whether the records are asked of the source each time or copied, and when and how they are copied. */
export function KeepEditor({
  definition,
  traits,
  zone,
  onChange,
}: {
  definition: DataSet;
  traits: Pick<SourceTraits, 'isLive'>;
  zone: string;
  onChange: (next: DataSet) => void;
}) {
  const { keep } = definition;
  const fields = startOf(definition);
  const put = (next: Keep | undefined): void => {
    const { keep: _, ...rest } = definition;
    onChange(next ? { ...rest, keep: next } : rest);
  };
  const growing = fields.filter(({ type }) => isNumeric(type) || isTemporal(type));
  const dated = fields.filter(({ type }) => isTemporal(type));
  const problem = keepProblem(definition);
  const isFollowed = keep?.mode.kind === 'follow';
  const since = keep && 'since' in keep.mode ? keep.mode.since : null;
  const isOnDemand = !keep && !traits.isLive;
  return (
    <Section
      title="Live or kept"
      note={
        isFollowed
          ? 'What is new is added as it comes, and stays when the source lets it go.'
          : traits.isLive
            ? 'Live records are asked of the source each time. Kept ones are copied, and answer at once.'
            : 'Fetched records are shared by all readers until they are too old. Kept ones are copied on a schedule, and answer at once.'
      }
    >
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          {!isFollowed && (
            <SelectField
              label="Records are"
              value={keep ? 'kept' : 'live'}
              onChange={(chosen) => put(chosen === 'kept' ? usualKeep : undefined)}
              choices={[
                {
                  value: 'live',
                  words: traits.isLive ? 'live, at the source' : 'fetched when somebody looks',
                },
                { value: 'kept', words: 'kept here' },
              ]}
            />
          )}
          {isOnDemand && (
            <TextField
              label="Longest age in minutes"
              type="number"
              min={0}
              max={10_080}
              defaultValue={(definition.fresh ?? 300) / 60}
              onChange={({ target }) => {
                const seconds = Math.round(target.valueAsNumber * 60);
                if (seconds >= 0 && seconds <= 604_800) onChange({ ...definition, fresh: seconds });
              }}
            />
          )}
          {keep && !isFollowed && <ModeField keep={keep} growing={growing} onChange={put} />}
        </div>
        {keep && since !== null && (
          <SelectField
            label="Going on from"
            value={since}
            onChange={(chosen) =>
              'since' in keep.mode && put({ ...keep, mode: { ...keep.mode, since: chosen } })
            }
            choices={growing.map((field) => ({
              value: field.name,
              words: `the greatest ${labelOf(field).toLowerCase()} so far`,
            }))}
          />
        )}
        {keep && definition.request.kind === 'http' && keep.mode.kind === 'changed' && (
          <TellField keep={keep} mode={keep.mode} definition={definition} onChange={put} />
        )}
        {keep && <ScheduleFields keep={keep} zone={zone} onChange={put} />}
        {keep && dated.length > 0 && (
          <div className="grid grid-cols-2 items-end gap-3">
            <CheckField
              label="Let old records go"
              checked={keep.forget !== undefined}
              onChange={() => {
                const { forget, ...rest } = keep;
                put(forget ? rest : { ...rest, forget: { field: dated[0]?.name ?? '', days: 90 } });
              }}
            />
            {keep.forget && (
              <TextField
                label="After days"
                type="number"
                min={1}
                max={36_500}
                defaultValue={keep.forget.days}
                onChange={({ target }) => {
                  const days = Math.trunc(target.valueAsNumber);
                  if (keep.forget && days >= 1 && days <= 36_500)
                    put({ ...keep, forget: { ...keep.forget, days } });
                }}
              />
            )}
            {keep.forget && (
              <SelectField
                label="By"
                value={keep.forget.field}
                onChange={(chosen) =>
                  keep.forget && put({ ...keep, forget: { ...keep.forget, field: chosen } })
                }
                choices={dated.map((field) => ({ value: field.name, words: labelOf(field).toLowerCase() }))}
              />
            )}
          </div>
        )}
        {problem && <Wrong>This cannot be kept so: {problem}.</Wrong>}
      </div>
    </Section>
  );
}

function ModeField({
  keep,
  growing,
  onChange,
}: {
  keep: Keep;
  growing: DataSet['fields'];
  onChange: (keep: Keep) => void;
}) {
  return (
    <SelectField
      label="Each time fetch"
      value={keep.mode.kind}
      onChange={(kind) => {
        const since =
          'since' in keep.mode
            ? keep.mode.since
            : ((growing.find(({ type }) => isTemporal(type)) ?? growing[0])?.name ?? '');
        onChange({
          ...keep,
          mode: kind === 'changed' || kind === 'append' ? { kind, since } : { kind: 'replace' },
        });
      }}
      choices={[
        { value: 'replace', words: 'all of them' },
        { value: 'changed', words: 'what is new or changed', disabled: growing.length === 0 },
        { value: 'append', words: 'what is new, and add it', disabled: growing.length === 0 },
      ]}
    />
  );
}

/** By which input a service is told where to go on from. */
function TellField({
  keep,
  mode,
  definition: { inputs },
  onChange,
}: {
  keep: Keep;
  mode: Extract<Keep['mode'], { kind: 'changed' }>;
  definition: DataSet;
  onChange: (keep: Keep) => void;
}) {
  return (
    <SelectField
      label="Told to the service as"
      value={mode.tell ?? ''}
      hint={
        inputs.length === 0
          ? 'To ask only for what is new, write an optional input in the query, such as since: {since}.'
          : undefined
      }
      onChange={(chosen) => {
        const { tell: _, ...rest } = mode;
        onChange({ ...keep, mode: chosen ? { ...rest, tell: chosen } : rest });
      }}
      choices={[
        { value: '', words: 'nothing: it gives all of them each time' },
        ...inputs.map(({ name }) => ({ value: name, words: `{${name}}` })),
      ]}
    />
  );
}

function ScheduleFields({
  keep,
  zone,
  onChange,
}: {
  keep: Keep;
  zone: string;
  onChange: (keep: Keep) => void;
}) {
  const { schedule } = keep;
  return (
    <div className="grid grid-cols-2 gap-3">
      <SelectField
        label="When"
        value={schedule.kind}
        onChange={(kind) => {
          onChange({
            ...keep,
            schedule:
              kind === 'minutes'
                ? { kind, minutes: 60 }
                : kind === 'cron'
                  ? { kind, text: '40 6 * * *', zone }
                  : { kind: 'by hand' },
          });
        }}
        choices={[
          { value: 'minutes', words: 'every … minutes' },
          { value: 'cron', words: 'by the clock' },
          { value: 'by hand', words: 'only when somebody asks' },
        ]}
      />
      {schedule.kind === 'minutes' && (
        <TextField
          label="Minutes"
          type="number"
          min={1}
          max={10_080}
          defaultValue={schedule.minutes}
          onChange={({ target }) => {
            const minutes = Math.trunc(target.valueAsNumber);
            if (minutes >= 1 && minutes <= 10_080)
              onChange({ ...keep, schedule: { kind: 'minutes', minutes } });
          }}
        />
      )}
      {schedule.kind === 'cron' && (
        <TextField
          label="Minute, hour, day, month, weekday"
          hint={`Cron's five fields, in ${schedule.zone}`}
          value={schedule.text}
          maxLength={100}
          className="font-mono"
          onChange={({ target }) => onChange({ ...keep, schedule: { ...schedule, text: target.value } })}
        />
      )}
    </div>
  );
}
