import { useForm } from '@conform-to/react';
import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { formatNumber } from '#core/format/format.ts';
import type { SourceAnswer } from '../routes/source-new.tsx';
import { Button, ButtonLink } from '../ui/button.tsx';
import { SelectField, TextAreaField, TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Section } from '../ui/page.tsx';
import { SignInAgain } from '../ui/sign-in-again.tsx';
import { IntakeHelp } from './intake-help.tsx';
import { LineSample } from './line-sample.tsx';
import { SampleTable } from './sample-table.tsx';

const kinds = [
  ['postgres', 'PostgreSQL'],
  ['mariadb', 'MariaDB or MySQL'],
  ['http', 'HTTP API'],
  ['odata', 'OData service'],
  ['logs', 'Log files'],
  ['intake', 'Sent to us'],
] as const;

type FieldOf = (name: string) => { name: string; defaultValue?: string; problem?: string };

/** Where a source is and who asks, what proving it found with its first records, and the button that adds it. */
export function SourceForm({
  id,
  change,
  values,
  folders,
  answer,
  signedOut,
  zone,
}: {
  id: string;
  change: string | null;
  values: Record<string, string>;
  folders: readonly string[];
  answer: SourceAnswer | undefined;
  signedOut: boolean;
  zone: string;
}) {
  const busy = useNavigation().state !== 'idle';
  const [closed, setClosed] = useState(false);
  const [form, fields] = useForm<Record<string, string>>({ lastResult: answer?.result ?? null });
  const kind = values.kind ?? 'postgres';
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
          {kinds.map(([value, words]) => (
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
          {(kind === 'postgres' || kind === 'mariadb') && (
            <DatabaseFields field={field} kind={kind} change={change} />
          )}
          {(kind === 'http' || kind === 'odata') && (
            <ServiceFields field={field} kind={kind} change={change} />
          )}
          {kind === 'logs' && <LogFields field={field} folders={folders} />}
          {kind === 'intake' && (
            <p className="text-slate">
              Services send their events here: OTLP logs over HTTP, or lines of JSON. A key is made when you
              add it, and shown once.
            </p>
          )}
          <div className="flex gap-3">
            <Button type="submit" name="intent" value="add" look="main" disabled={busy}>
              {busy
                ? 'Connecting …'
                : kind === 'intake'
                  ? 'Add it'
                  : change
                    ? 'Test and save'
                    : 'Test and add'}
            </Button>
            {kind !== 'intake' && (
              <Button type="submit" name="intent" value="prove" disabled={busy}>
                Test
              </Button>
            )}
          </div>
        </Form>
        <div aria-live="polite" className="flex min-w-0 flex-col gap-6">
          {answer?.problem && <ProblemMessage problem={answer.problem} />}
          {answer?.proof && <ProofView proof={answer.proof} />}
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

function SecretField({ label, field, change }: { label: string; field: FieldOf; change: string | null }) {
  const { problem } = field('secret');
  return (
    <TextField
      label={label}
      name="secret"
      type="password"
      autoComplete="new-password"
      hint={change ? 'Left empty, it stays as it is.' : undefined}
      problem={problem}
    />
  );
}

function DatabaseFields({ field, kind, change }: { field: FieldOf; kind: string; change: string | null }) {
  const port = field('port');
  return (
    <>
      <div className="grid grid-cols-[1fr_7rem] gap-3">
        <TextField label="Address" {...field('host')} autoComplete="off" />
        <TextField
          label="Port"
          inputMode="numeric"
          {...port}
          defaultValue={port.defaultValue || (kind === 'postgres' ? '5432' : '3306')}
        />
      </div>
      <TextField label="Database" {...field('database')} autoComplete="off" />
      <div className="grid grid-cols-2 gap-3">
        <TextField label="User" {...field('user')} autoComplete="off" />
        <SecretField label="Password" field={field} change={change} />
      </div>
      <SelectField
        label="TLS"
        {...field('tls')}
        choices={[
          { value: 'off', words: 'Off: only on a network you trust' },
          { value: 'require', words: 'Encrypted, certificate not checked' },
          { value: 'verify', words: 'Encrypted, certificate checked' },
        ]}
      />
      <AuthorityField field={field} />
    </>
  );
}

const secretNames: Record<string, string> = {
  basic: 'Password',
  key: 'Key',
  bearer: 'Token',
  client: 'Client secret',
};

function ServiceFields({ field, kind, change }: { field: FieldOf; kind: string; change: string | null }) {
  const [auth, setAuth] = useState(field('auth').defaultValue ?? 'none');
  return (
    <>
      <TextField
        label="Address"
        hint={
          kind === 'odata'
            ? 'The root of the service, which $metadata stands under.'
            : 'What all its paths begin with.'
        }
        {...field('base')}
        inputMode="url"
        autoComplete="off"
      />
      <SelectField
        label="Sign in with"
        {...field('auth')}
        defaultValue={auth}
        onChange={setAuth}
        choices={[
          { value: 'none', words: 'nothing: anybody may ask' },
          { value: 'basic', words: 'user and password' },
          { value: 'key', words: 'a key in a header or the query' },
          { value: 'bearer', words: 'a bearer token' },
          { value: 'client', words: 'OAuth 2 client credentials' },
        ]}
      />
      {auth === 'basic' && <TextField label="User" {...field('user')} autoComplete="off" />}
      {auth === 'key' && (
        <div className="grid grid-cols-2 gap-3">
          <SelectField
            label="Sent in"
            {...field('keyIn')}
            choices={[
              { value: 'header', words: 'a header' },
              { value: 'query', words: 'the query' },
            ]}
          />
          <TextField label="Under the name" {...field('keyName')} autoComplete="off" />
        </div>
      )}
      {auth === 'client' && (
        <>
          <TextField label="Address that gives tokens" {...field('tokenAddress')} inputMode="url" />
          <div className="grid grid-cols-2 gap-3">
            <TextField label="Client" {...field('client')} autoComplete="off" />
            <TextField label="Scope" hint="If the service wants one." {...field('scope')} />
          </div>
        </>
      )}
      {auth !== 'none' && <SecretField label={secretNames[auth] ?? 'Secret'} field={field} change={change} />}
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="Calls allowed a day"
          hint="Blank: no limit."
          inputMode="numeric"
          {...field('allowance')}
        />
        {kind === 'http' && (
          <TextField label="A path to look at first" hint="Its records are shown here." {...field('path')} />
        )}
      </div>
      <AuthorityField field={field} />
    </>
  );
}

/** Behind a line of its own: few need it. */
function AuthorityField({ field }: { field: FieldOf }) {
  const { defaultValue = '', problem, ...named } = field('authority');
  return (
    <details open={defaultValue !== '' || problem !== undefined}>
      <summary className="cursor-default text-small text-slate hover:text-accent">
        Its certificate is from an authority of our own
      </summary>
      <div className="mt-3">
        <TextAreaField
          label="The authority’s certificate, in PEM"
          hint="It is trusted for this source only. A private key never belongs here."
          rows={5}
          className="font-mono text-small"
          spellCheck={false}
          {...named}
          defaultValue={defaultValue}
          problem={problem}
        />
      </div>
    </details>
  );
}

function LogFields({ field, folders }: { field: FieldOf; folders: readonly string[] }) {
  const folder = field('folder');
  return (
    <>
      <TextField
        label="Folder"
        list="log-folders"
        hint={
          folders.length > 0
            ? `One of these, or a folder in one: ${folders.join(', ')}`
            : 'Whoever runs this installation lists folders in SLATE_LOG_FOLDERS; none is listed yet.'
        }
        {...folder}
        defaultValue={folder.defaultValue ?? folders[0] ?? ''}
      />
      <datalist id="log-folders">
        {folders.map((each) => (
          <option key={each} value={each} />
        ))}
      </datalist>
    </>
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
export function ProofView({ proof }: { proof: NonNullable<SourceAnswer['proof']> }) {
  const seconds = Math.abs(proof.clockSkewMs ?? 0) / 1000;
  const facts = [
    ...proof.facts,
    ...(proof.clockSkewMs === null
      ? []
      : [
          {
            name: 'Clock',
            value:
              seconds < 2
                ? 'agrees with ours'
                : `${formatNumber(String(Math.round(seconds)))} s ${proof.clockSkewMs > 0 ? 'ahead of' : 'behind'} ours`,
          },
        ]),
    { name: 'Answered in', value: `${formatNumber(String(proof.tookMs))} ms` },
  ];
  return (
    <section aria-label="What was found" className="max-w-md border-l-3 border-settled pl-4">
      <h2 className="mb-1 text-body">The connection works.</h2>
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
        {facts.map(({ name, value }) => (
          <div key={name} className="col-span-2 grid grid-cols-subgrid">
            <dt className="text-small font-normal text-muted">{name}</dt>
            <dd className="min-w-0 break-words">{value}</dd>
          </div>
        ))}
      </dl>
      {proof.warnings.map((warning) => (
        <p key={warning} className="mt-2 text-small text-slipping">
          {warning}
        </p>
      ))}
    </section>
  );
}
