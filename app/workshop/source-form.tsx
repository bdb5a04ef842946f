import { useForm } from '@conform-to/react';
import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { formatNumber } from '#core/format/format.ts';
import type { SourceAnswer } from '../routes/source-new.tsx';
import { Button } from '../ui/button.tsx';
import { SelectField, TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { SignInAgain } from '../ui/sign-in-again.tsx';

/** Address and credential of a database, what proving it found, and the button that adds it. */
export function SourceForm({
  id,
  answer,
  signedOut,
}: {
  id: string;
  answer: SourceAnswer | undefined;
  signedOut: boolean;
}) {
  const busy = useNavigation().state !== 'idle';
  const [closed, setClosed] = useState(false);
  const [form, fields] = useForm<
    Record<'name' | 'host' | 'port' | 'database' | 'user' | 'password' | 'tls', string>
  >({ lastResult: answer?.result ?? null });
  const wrong = (errors: string[] | undefined): string | undefined => errors?.[0];
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,30rem)_1fr]">
      <Form
        method="post"
        id={form.id}
        onSubmit={(event) => busy && event.preventDefault()}
        className="flex flex-col gap-4"
      >
        <input type="hidden" name="id" value={id} />
        <TextField
          label="Name"
          hint="What your team calls it."
          name="name"
          defaultValue={fields.name.initialValue}
          problem={wrong(fields.name.errors)}
          autoFocus
        />
        <div className="grid grid-cols-[1fr_7rem] gap-3">
          <TextField
            label="Address"
            name="host"
            defaultValue={fields.host.initialValue}
            problem={wrong(fields.host.errors)}
            autoComplete="off"
          />
          <TextField
            label="Port"
            name="port"
            inputMode="numeric"
            defaultValue={fields.port.initialValue ?? '5432'}
            problem={wrong(fields.port.errors)}
          />
        </div>
        <TextField
          label="Database"
          name="database"
          defaultValue={fields.database.initialValue}
          problem={wrong(fields.database.errors)}
          autoComplete="off"
        />
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label="User"
            name="user"
            defaultValue={fields.user.initialValue}
            problem={wrong(fields.user.errors)}
            autoComplete="off"
          />
          <TextField
            label="Password"
            name="password"
            type="password"
            problem={wrong(fields.password.errors)}
            autoComplete="new-password"
          />
        </div>
        <SelectField label="TLS" name="tls" defaultValue={fields.tls.initialValue ?? 'off'}>
          <option value="off">Off: only on a network you trust</option>
          <option value="require">Encrypted, certificate not checked</option>
          <option value="verify">Encrypted, certificate checked</option>
        </SelectField>
        <div className="flex gap-3">
          <Button type="submit" name="intent" value="add" look="main" disabled={busy}>
            {busy ? 'Connecting …' : 'Prove and add'}
          </Button>
          <Button type="submit" name="intent" value="prove" disabled={busy}>
            Only prove
          </Button>
        </div>
      </Form>
      <div aria-live="polite">
        {answer?.problem && <ProblemMessage problem={answer.problem} />}
        {answer?.proof && <ProofView proof={answer.proof} />}
      </div>
      {signedOut && !closed && <SignInAgain onDone={() => setClosed(true)} />}
    </div>
  );
}

/** What proving a connection found, in plain words. */
export function ProofView({ proof }: { proof: NonNullable<SourceAnswer['proof']> }) {
  const seconds = Math.abs(proof.clockSkewMs) / 1000;
  const facts: [string, string][] = [
    ['Server', `PostgreSQL ${proof.version}${proof.standby ? ', a standby' : ''}`],
    ['Signed in as', `${proof.role}${proof.superuser ? ', a superuser' : ''}`],
    ['May read', `${formatNumber(String(proof.readable))} tables and views`],
    ['May change', proof.writable === 0 ? 'nothing' : `${formatNumber(String(proof.writable))} tables`],
    [
      'Clock',
      seconds < 2
        ? 'agrees with ours'
        : `${formatNumber(String(seconds), 0)} s ${proof.clockSkewMs > 0 ? 'ahead of' : 'behind'} ours`,
    ],
    ['Answered in', `${formatNumber(String(proof.tookMs))} ms`],
  ];
  return (
    <section aria-label="What was found" className="max-w-md border-l-3 border-settled pl-4">
      <h2 className="mb-1 text-body">The connection works.</h2>
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
        {facts.map(([name, value]) => (
          <div key={name} className="col-span-2 grid grid-cols-subgrid">
            <dt className="text-small font-normal text-muted">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {proof.superuser && (
        <p className="mt-2 text-small text-slipping">
          A superuser may do anything. Prefer a role that may only read.
        </p>
      )}
    </section>
  );
}
