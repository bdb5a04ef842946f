import { useForm } from '@conform-to/react';
import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { formatNumber } from '#core/value/format/format.ts';
import type { FormPart } from '#sources/form.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { SignInAgain } from '../ui/sign-in-again.tsx';
import type { SourceAnswer } from './answers.ts';
import { type FieldOf, FormParts } from './form-parts.tsx';
import { IntakeHelp } from './intake-help.tsx';
import { LineSample } from './requests/log/line-sample.tsx';
import { SampleTable } from './sample-table.tsx';

/** Where a source is and who asks, what proving it found with its first records, and the button that adds it. */
export function SourceForm({
  id,
  change,
  values,
  kinds,
  form: parts,
  isMade,
  answer,
  signedOut,
  zone,
}: {
  id: string;
  change: string | null;
  values: Record<string, string>;
  kinds: readonly { name: string; label: string }[];
  form: readonly FormPart[];
  isMade: boolean;
  answer: SourceAnswer | undefined;
  signedOut: boolean;
  zone: string;
}) {
  const busy = useNavigation().state !== 'idle';
  const [closed, setClosed] = useState(false);
  const [form, fields] = useForm<Record<string, string>>({ lastResult: answer?.result ?? null });
  const { kind } = values;
  const field: FieldOf = (name) => {
    const { initialValue, errors } = fields[name] ?? {};
    const value = initialValue ?? values[name];
    return {
      name,
      ...(value === undefined ? {} : { defaultValue: value }),
      ...(errors?.[0] ? { problem: errors[0] } : {}),
    };
  };
  if (answer?.added) return <IntakeAdded id={answer.added.id} keyShown={answer.added.key} />;
  return (
    <div className="flex flex-col gap-6">
      {!change && (
        <nav aria-label="Kinds of sources" className="flex flex-wrap gap-x-6 gap-y-1 border-b border-line">
          {kinds.map(({ name: value, label: words }) => (
            <Link
              key={value}
              to={`?kind=${value}`}
              aria-current={value === kind ? 'page' : undefined}
              className={`-mb-px border-b-2 pb-1.5 text-lead ${value === kind ? 'border-accent font-strong text-accent' : 'border-transparent text-slate hover:text-accent'}`}
            >
              {words}
            </Link>
          ))}
        </nav>
      )}
      <div className="grid gap-10 lg:grid-cols-[minmax(0,30rem)_minmax(0,1fr)]">
        <Form
          key={kind}
          method="post"
          id={form.id}
          onSubmit={(event) => busy && event.preventDefault()}
          className="flex flex-col gap-4"
        >
          <input type="hidden" name="id" value={id} />
          <input type="hidden" name="kind" value={kind} />
          {change && <input type="hidden" name="change" value={change} />}
          <TextField
            label="Name"
            hint="What your team calls it."
            {...field('name')}
            maxLength={500}
            autoFocus
          />
          <FormParts parts={parts} field={field} change={change} />
          <div className="flex gap-3">
            <Button type="submit" name="intent" value="add" look="main" disabled={busy}>
              {busy ? 'Connecting …' : isMade ? 'Add it' : change ? 'Test and save' : 'Test and add'}
            </Button>
            {!isMade && (
              <Button type="submit" name="intent" value="prove" disabled={busy}>
                Test
              </Button>
            )}
          </div>
        </Form>
        <div aria-live="polite" className="flex min-w-0 flex-col gap-6">
          {answer?.problem && <ProblemMessage problem={answer.problem} />}
          {answer?.report && <ReportView report={answer.report} />}
          {answer?.look && (
            <Section title="Its first records">
              {answer.look.lines && <LineSample lines={answer.look.lines} />}
              <SampleTable tried={answer.look} zone={zone} />
            </Section>
          )}
        </div>
        {signedOut && !closed && <SignInAgain onDone={() => setClosed(true)} />}
      </div>
    </div>
  );
}

function IntakeAdded({ id, keyShown }: { id: string; keyShown: string }) {
  return (
    <div className="flex max-w-3xl flex-col gap-5">
      <div className="border-l-3 border-settled pl-4">
        <h2 className="text-lead">It is added. This is its key; it is not shown again.</h2>
        <p className="mt-2 font-mono break-all" data-testid="intake-key">
          {keyShown}
        </p>
      </div>
      <IntakeHelp keyText={keyShown} />
      <div>
        <ButtonLink look="main" to={`/workroom/sources/${id}`}>
          Go on
        </ButtonLink>
      </div>
    </div>
  );
}

/** What proving a connection found, in plain words. */
export function ReportView({ report }: { report: NonNullable<SourceAnswer['report']> }) {
  const seconds = Math.abs(report.clockSkewMs ?? 0) / 1000;
  const facts = [
    ...report.facts,
    ...(report.clockSkewMs === null
      ? []
      : [
          {
            name: 'Clock',
            value:
              seconds < 2
                ? 'agrees with ours'
                : `${formatNumber(String(Math.round(seconds)))} s ${report.clockSkewMs > 0 ? 'ahead of' : 'behind'} ours`,
          },
        ]),
    { name: 'Answered in', value: `${formatNumber(String(report.tookMs))} ms` },
  ];
  return (
    <section aria-label="What was found" className="max-w-md border-l-3 border-settled pl-4">
      <h2 className="mb-1 text-body">The connection works.</h2>
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
        {facts.map(({ name, value }) => (
          <div key={name} className="col-span-2 grid grid-cols-subgrid">
            <dt className="text-small font-normal text-muted">{name}</dt>
            <dd className="min-w-0">{value}</dd>
          </div>
        ))}
      </dl>
      {report.warnings.map((warning) => (
        <p key={warning} className="mt-2 text-small text-slipping">
          {warning}
        </p>
      ))}
    </section>
  );
}
