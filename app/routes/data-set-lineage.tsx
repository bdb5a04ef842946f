import { useState } from 'react';
import { useFetcher } from 'react-router';
import { z } from 'zod';
import {
  type NamedDashboard,
  type NamedDataSet,
  type Use,
  usesOfDataSet,
  usesOfField,
  usesOfMeasure,
} from '#core/lineage/uses.ts';
import { FieldName } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { allDrafts, renameEverywhere } from '#server/lineage/rename.ts';
import { note } from '#server/store/audit.ts';
import { allDataSets, removeDataSet, type StoredDataSet } from '#server/store/data-sets.ts';
import { listSources } from '#server/store/sources.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import { LineageGraph } from '../workroom/lineage-graph.tsx';
import type { Route } from './+types/data-set-lineage';

interface Loaded {
  stored: StoredDataSet;
  dataSets: NamedDataSet[];
  dashboards: NamedDashboard[];
  sources: { id: string; name: string }[];
}

/** What a data set comes from, and what comes of it. */
export const loader = guardedLoader(
  to('build'),
  async ({ params }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const id = idParam(params.id, 'data set');
    const [all, dashboards, sources] = await Promise.all([allDataSets(), allDrafts(), listSources()]);
    const stored = all.find((each) => each.id === id);
    if (!stored) throw notFound('data set');
    return {
      stored,
      dashboards,
      dataSets: all.map(({ id: each, name, definition }) => ({ id: each, name, definition })),
      sources: sources.map(({ id: each, name }) => ({ id: each, name })),
    };
  },
);

const Body = z.discriminatedUnion('act', [
  z.object({ act: z.literal('rename'), from: FieldName, to: z.string().trim().pipe(FieldName) }),
  z.object({ act: z.literal('remove') }),
]);

type Answer =
  | { readonly ok: true; readonly gone?: boolean }
  | { readonly ok: false; readonly problem: Problem };

/** Gives a field another name everywhere, or takes the data set away where nothing needs it. */
export const action = guardedAction(
  to('build'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<Answer> => {
    const id = idParam(params.id, 'data set');
    const doing = 'changing the data set';
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success)
      return {
        ok: false,
        problem: { code: 'bad-request', doing, why: z.prettifyError(body.error), mend: 'Try again.' },
      };
    try {
      if (body.data.act === 'rename') {
        const { from, to } = body.data;
        await renameEverywhere(id, from, to, user.id);
        await note(user.id, 'renamed a field everywhere', `${from} → ${to}`);
        return { ok: true };
      }
      const all = await allDataSets();
      const [first] = usesOfDataSet(id, all, await allDrafts());
      if (first)
        return {
          ok: false,
          problem: {
            code: 'bad-request',
            doing: 'taking the data set away',
            why: `${first.at} needs it`,
            mend: 'Change what needs it first.',
          },
        };
      await removeDataSet(id);
      await note(user.id, 'took a data set away', all.find((each) => each.id === id)?.name ?? id);
      return { ok: true, gone: true };
    } catch (thrown) {
      return { ok: false, problem: problemOf(thrown, doing) };
    }
  },
);

export default function DataSetLineage({ loaderData }: Route.ComponentProps) {
  const { stored, dataSets, dashboards, sources } = loaderData;
  return (
    <Page title={stored.name} lead={`One record for each ${stored.definition.noun.one}.`} wide>
      <DataSetNav id={stored.id} isKept={stored.definition.keep !== undefined} />
      <LineageGraph id={stored.id} dataSets={dataSets} dashboards={dashboards} sources={sources} />
      <div className="mt-8 grid gap-x-12 gap-y-8 lg:grid-cols-2">
        <Fields {...loaderData} />
        <Removal {...loaderData} />
      </div>
    </Page>
  );
}

/** What would break if a field or a measure went, and a new name that is carried through. */
function Fields({ stored, dataSets, dashboards }: Loaded) {
  const { fields, measures } = stored.definition;
  const [chosen, setChosen] = useState(`field ${fields[0]?.name ?? ''}`);
  const [to, setTo] = useState('');
  const fetcher = useFetcher<Answer>();
  const isField = chosen.startsWith('field ');
  const name = chosen.slice(chosen.indexOf(' ') + 1);
  const uses = isField
    ? usesOfField(stored.id, name, dataSets, dashboards)
    : usesOfMeasure(stored.id, name, dashboards);
  return (
    <Section title="What would break" note="If this field or measure went, or meant something else.">
      <div className="flex flex-col gap-3">
        <SelectField
          label="Field or measure"
          value={chosen}
          onChange={setChosen}
          choices={[
            ...fields.map((field) => ({
              value: `field ${field.name}`,
              words: labelOf(field),
              group: 'Fields',
            })),
            ...measures.map((measure) => ({
              value: `measure ${measure.name}`,
              words: measure.label,
              group: 'Measures',
            })),
          ]}
        />
        <Uses uses={uses} />
        {isField && (
          <fetcher.Form
            className="flex items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              void fetcher.submit(JSON.stringify({ act: 'rename', from: name, to }), {
                method: 'post',
                encType: 'application/json',
              });
              setTo('');
            }}
          >
            <div className="flex-1">
              <TextField
                label={`Call “${name}” otherwise`}
                value={to}
                maxLength={200}
                hint={
                  uses.length > 0
                    ? `${uses.length === 1 ? 'The use above follows' : `All ${uses.length} uses above follow`}; readers see it when the dashboards are published again.`
                    : undefined
                }
                onChange={({ target }) => setTo(target.value)}
              />
            </div>
            <Button
              type="submit"
              className={uses.length > 0 ? 'mb-6' : ''}
              disabled={to.trim() === '' || fetcher.state === 'submitting'}
            >
              Rename everywhere
            </Button>
          </fetcher.Form>
        )}
        {fetcher.data && !fetcher.data.ok && <ProblemMessage problem={fetcher.data.problem} />}
        {fetcher.data?.ok && fetcher.state === 'idle' && <p role="status">It is renamed everywhere.</p>}
      </div>
    </Section>
  );
}

function Uses({ uses }: { uses: readonly Use[] }) {
  if (uses.length === 0) return <p className="text-muted">Nothing needs it.</p>;
  return (
    <ul>
      {uses.map((use) => (
        <li key={`${use.id} ${use.at}`} className="border-b border-hair py-1">
          {use.at}
          {use.mild && <span className="text-muted">, which goes on without</span>}
        </li>
      ))}
    </ul>
  );
}

function Removal({ stored, dataSets, dashboards }: Loaded) {
  const uses = usesOfDataSet(stored.id, dataSets, dashboards);
  const fetcher = useFetcher<Answer>();
  const [sure, setSure] = useState(false);
  return (
    <Section title="Remove" note="A data set that something needs stays.">
      <Uses uses={uses} />
      {fetcher.data && !fetcher.data.ok && <ProblemMessage problem={fetcher.data.problem} />}
      {fetcher.data?.ok && fetcher.data.gone ? (
        <p role="status">Removed.</p>
      ) : (
        uses.length === 0 && (
          <div className="mt-3 flex gap-2">
            {sure ? (
              <>
                <Button
                  look="main"
                  onClick={() =>
                    void fetcher.submit(JSON.stringify({ act: 'remove' }), {
                      method: 'post',
                      encType: 'application/json',
                    })
                  }
                >
                  Remove “{stored.name}”
                </Button>
                <Button look="quiet" onClick={() => setSure(false)}>
                  Cancel
                </Button>
              </>
            ) : (
              <Button onClick={() => setSure(true)}>Remove it</Button>
            )}
          </div>
        )
      )}
    </Section>
  );
}
