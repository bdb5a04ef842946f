import { useEffect } from 'react';
import { Form, Link, useNavigation, useRevalidator } from 'react-router';
import { readAsText } from '#core/dataset/read-as-text.ts';
import { formatBytes, formatMoment, formatNumber } from '#core/value/format/format.ts';
import { scheduleWords } from '#core/words/kept.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { note } from '#server/store/audit.ts';
import { findDataSet, saveDataSet, worldOf } from '#server/store/data-sets.ts';
import { askForRefresh, keptState } from '#server/store/due.ts';
import { currentVersion } from '#server/store/kept.ts';
import { askToStop, latestRejects, type Refresh, refreshHistory } from '#server/store/refreshes.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import type { Route } from './+types/data-set-records';

/** What is kept of a data set, since when it is true, and how its refreshes went. */
export const loader = guardedLoader(to('build'), async ({ params }: Signed<Route.LoaderArgs>) => {
  const id = idParam(params.id, 'data set');
  const stored = await findDataSet(id);
  if (!stored?.definition.keep) throw notFound('data set that is kept');
  const [version, state, history, zone, rejects] = await Promise.all([
    currentVersion(id),
    keptState(id),
    refreshHistory(id),
    zoneOf(id),
    latestRejects(id),
  ]);
  return {
    id,
    name: stored.name,
    noun: stored.definition.noun,
    isUpload: stored.definition.request.kind === 'upload',
    schedule: stored.definition.keep.schedule,
    zone,
    version: version && {
      records: version.records,
      trueAt: version.trueAt,
      segments: version.segments.length,
      size: version.segments.reduce((sum, { size }) => sum + size, 0),
    },
    state,
    history,
    rejects,
    now: new Date().toISOString(),
  };
});

export const action = guardedAction(
  to('build'),
  async ({
    params,
    request,
    user,
  }: Signed<Route.ActionArgs>): Promise<{ doing: 'now' | 'stop' | 'text' }> => {
    const id = idParam(params.id, 'data set');
    const stored = await findDataSet(id);
    if (!stored?.definition.keep) throw notFound('data set that is kept');
    const form = await request.formData();
    if (form.get('do') === 'text') {
      const field = String(form.get('field'));
      const next = readAsText(stored.definition, field, await worldOf(stored.definition));
      // Sent twice, or done by somebody else meanwhile: then it is as it should be.
      if (next) {
        await saveDataSet({ ...stored, definition: next, by: user.id });
        await note(user.id, `took ${field} as text`, stored.name);
      }
      await askForRefresh(id);
      return { doing: 'text' };
    }
    const doing = form.get('do') === 'stop' ? 'stop' : 'now';
    await (doing === 'stop' ? askToStop(id) : askForRefresh(id));
    await note(user.id, doing === 'stop' ? 'stopped a refresh' : 'asked for a refresh', stored.name);
    return { doing };
  },
);

const lookMs = 1000;

export default function DataSetRecords({ loaderData }: Route.ComponentProps) {
  const { id, name, noun, isUpload, schedule, zone, version, state, history, rejects, now } = loaderData;
  const { revalidate } = useRevalidator();
  const { formData } = useNavigation();
  const [latest] = history;
  const hasCalls = history.some(({ calls }) => calls > 0);
  const isRunning = latest?.state === 'running';
  const isDue = state?.nextAt != null && state.nextAt <= now;
  useEffect(() => {
    const timer = setInterval(() => void revalidate(), isRunning || isDue ? lookMs : 5 * lookMs);
    return () => clearInterval(timer);
  }, [isRunning, isDue, revalidate]);
  return (
    <Page
      wide
      title={`Kept records of ${name}`}
      lead={
        <>
          {isUpload ? 'From files.' : `Fetched ${scheduleWords(schedule)}.`}{' '}
          <Link to={`/workroom/data-sets/${id}`} className="text-accent underline">
            The data set
          </Link>{' '}
          says how.
        </>
      }
      action={
        isUpload ? (
          <ButtonLink look="main" to={`/workroom/upload?into=${id}`}>
            Upload a later file
          </ButtonLink>
        ) : (
          <Form method="post">
            {isRunning ? (
              <Button type="submit" name="do" value="stop" disabled={formData !== undefined}>
                Stop
              </Button>
            ) : (
              <Button
                type="submit"
                name="do"
                value="now"
                look="main"
                disabled={formData !== undefined || isDue}
              >
                {isDue ? 'Waiting for a worker …' : 'Refresh now'}
              </Button>
            )}
          </Form>
        )
      }
    >
      <DataSetNav id={id} isKept />
      <div className="flex flex-col gap-8">
        <dl className="flex flex-wrap gap-x-12 gap-y-4">
          <Figure label={noun.many} value={version ? formatNumber(String(version.records)) : '—'} />
          <Figure label="As of" value={version ? formatMoment(version.trueAt, zone) : '—'} />
          <Figure
            label="next refresh"
            value={isRunning ? 'running' : state?.nextAt ? formatMoment(state.nextAt, zone) : 'when asked'}
          />
          <Figure label="size" value={version ? formatBytes(version.size) : '—'} />
        </dl>
        {latest?.state === 'failed' && latest.problem && (
          <ProblemMessage problem={latest.problem}>
            {version && (
              <p className="text-small text-muted">
                Readers keep the records as of {formatMoment(version.trueAt, zone)}.
              </p>
            )}
            {latest.problem.misfit !== undefined && !isUpload && (
              <Form method="post">
                <input type="hidden" name="field" value={latest.problem.misfit} />
                <Button type="submit" name="do" value="text" disabled={formData !== undefined || isDue}>
                  Take “{latest.problem.misfit}” as text, and what cannot be read beside it
                </Button>
              </Form>
            )}
          </ProblemMessage>
        )}
        <Section title="Refreshes">
          {history.length === 0 ? (
            <p className="text-muted">None yet.</p>
          ) : (
            <table className="w-full text-left">
              <thead className="text-small text-slate">
                <tr>
                  <th scope="col">Started</th>
                  <th scope="col">How it went</th>
                  <th scope="col" className="w-28 text-right">
                    Took
                  </th>
                  <th scope="col" className="w-28 text-right">
                    Fetched
                  </th>
                  <th scope="col" className="w-28 text-right">
                    Not read
                  </th>
                  <th scope="col" className="w-28 text-right">
                    Kept
                  </th>
                  {hasCalls && (
                    <th scope="col" className="w-24 text-right">
                      Calls
                    </th>
                  )}
                </tr>
              </thead>
              <tbody>
                {history.map((refresh) => (
                  <HistoryRow key={refresh.id} refresh={refresh} zone={zone} now={now} hasCalls={hasCalls} />
                ))}
              </tbody>
            </table>
          )}
        </Section>
        {rejects.length > 0 && (
          <Section
            title="Lines that could not be read"
            note="The latest of them. They are not records, and are kept here to look at."
          >
            <ul className="max-h-80 overflow-auto">
              {rejects.map(({ text, why, at, line }) => (
                <li key={`${at} ${line}`} className="border-b border-hair py-1">
                  <span className="font-mono text-small break-all">{text.slice(0, 600)}</span>
                  <span className="block text-small text-muted">
                    {formatMoment(at, zone)} · {why}
                  </span>
                </li>
              ))}
            </ul>
          </Section>
        )}
      </div>
    </Page>
  );
}

function Figure({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <dt className="text-small text-muted">{label}</dt>
      <dd className="figures text-title font-strong">{value}</dd>
    </div>
  );
}

const marks = {
  running: ['moving', 'Running'],
  done: ['settled', 'Done'],
  failed: ['broken', 'Failed'],
  stopped: ['waiting', 'Stopped'],
} as const;

function HistoryRow({
  refresh,
  zone,
  now,
  hasCalls,
}: {
  refresh: Refresh;
  zone: string;
  now: string;
  hasCalls: boolean;
}) {
  const [tone, word] = marks[refresh.state];
  const seconds = (Date.parse(refresh.endedAt ?? now) - Date.parse(refresh.startedAt)) / 1000;
  const rate = seconds > 0 ? Math.round(refresh.fetched / seconds) : 0;
  return (
    <tr className="border-b border-hair align-top">
      <td className="py-1.5 pr-4 whitespace-nowrap">{formatMoment(refresh.startedAt, zone)}</td>
      <td className="py-1.5 pr-4">
        <StateMark tone={tone} word={word} />
        {refresh.problem && refresh.state === 'failed' && (
          <span className="block text-small text-muted">{refresh.problem.why}</span>
        )}
        {refresh.state === 'running' && rate > 0 && (
          <span className="block text-small text-muted">{formatNumber(String(rate))} a second</span>
        )}
      </td>
      <td className="figures py-1.5 text-right whitespace-nowrap">{formatNumber(seconds.toFixed(1))} s</td>
      <td className="figures py-1.5 text-right">{formatNumber(String(refresh.fetched))}</td>
      <td className={`figures py-1.5 text-right ${refresh.rejected > 0 ? 'text-slipping' : ''}`}>
        {formatNumber(String(refresh.rejected))}
      </td>
      <td className="figures py-1.5 text-right">
        {refresh.kept === null ? '—' : formatNumber(String(refresh.kept))}
      </td>
      {hasCalls && <td className="figures py-1.5 text-right">{formatNumber(String(refresh.calls))}</td>}
    </tr>
  );
}
