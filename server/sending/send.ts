import { Cron } from 'croner';
import { scopeSegments } from '#core/dashboard/flow/words/scope.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { formatDate } from '#core/value/format/format.ts';
import { dayOf } from '#core/value/period/period.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { ownAddress } from '../own-address.ts';
import { openDashboard } from '../panes/context.ts';
import { withPicked } from '../panes/picked.ts';
import { runPane } from '../panes/run.ts';
import { pdfOf } from '../paper/pdf.ts';
import { askerOf } from '../people/asker.ts';
import { may } from '../permission.ts';
import { settings } from '../settings.ts';
import { findUser, type User } from '../store/people.ts';
import { leaseDueSendings, noteSending, noteSent, type Sending } from '../store/sendings.ts';
import { type Letter, sendLetter } from './mail.ts';

/* Dashboards by mail: each who gets one gets it as they would see it, with what they may see. */

/** So often one is tried again, each time after twice the wait; then it waits for its next time. */
const mostTries = 6;
const firstWaitMs = 60_000;

/** When a sending is due next after a moment, by the clock of a zone. */
export const nextSending = (cron: string, zone: string, after: Date): Date | null =>
  new Cron(cron, { timezone: zone, paused: true }).nextRun(after);

/** Sends what is due. What fails is tried again, and says why meanwhile; whoever has got it does not get it twice. */
export async function sendDue(now: Date, signal: AbortSignal): Promise<void> {
  for (const sending of await leaseDueSendings(now)) {
    if (signal.aborted) return;
    await sendOne(sending, now, signal);
  }
}

async function sendOne(sending: Sending, now: Date, signal: AbortSignal): Promise<void> {
  const { id, dashboardId, cron, search, failures } = sending;
  const owner = await findUser(sending.ownerId);
  const found =
    owner &&
    (await openDashboard({ id: dashboardId }, 'published', new URLSearchParams(search), now, askerOf(owner)));
  // Where it is not published any more, or its owner may no longer, it waits: both can come back.
  const zone = found?.shown.desk.zone ?? 'UTC';
  const next = nextSending(cron, zone, now);
  if (!owner || !found || !may(owner, 'act', { desk: found.shown.desk.id })) {
    const problem = found
      ? 'Whoever set it up may no longer send from this desk.'
      : 'The dashboard is not published.';
    return noteSending(id, { nextAt: next, failures: 0, problem, isDone: false, at: now });
  }
  const wrong: string[] = [];
  for (const to of sending.recipients) {
    if (sending.sentTo.includes(to)) continue;
    const person = await findUser(to);
    // Whoever has gone or may no longer read it gets nothing, and is nobody’s mistake.
    if (!person || !may(person, 'read', { desk: found.shown.desk.id })) continue;
    try {
      await sendLetter(await letterFor(person, owner, sending, now, signal));
      await noteSent(id, to);
    } catch (thrown) {
      wrong.push(`${person.email}: ${thrown instanceof Error ? thrown.message : String(thrown)}`);
    }
  }
  if (wrong.length === 0)
    return noteSending(id, { nextAt: next, failures: 0, problem: null, isDone: true, at: now });
  const isGivenUp = failures + 1 >= mostTries;
  const again = new Date(now.getTime() + firstWaitMs * 2 ** failures);
  await noteSending(id, {
    nextAt: isGivenUp || (next !== null && next < again) ? next : again,
    failures: isGivenUp ? 0 : failures + 1,
    problem: wrong.slice(0, 3).join('; '),
    isDone: isGivenUp,
    at: now,
  });
}

/** The panes that are a number each, in words. */
async function numbersOf(
  panes: readonly Pane[],
  context: Parameters<typeof runPane>[0]['context'],
  signal: AbortSignal,
): Promise<string[]> {
  const lines = await Promise.all(
    panes.map(async (pane) => {
      const { headline } = kindOf(pane);
      if (!headline) return null;
      const result = await runPane({ pane, context, signal });
      if (result.state === 'ready') return `${pane.title}: ${headline(result.body, context.clock)}`;
      return result.state === 'failed' ? `${pane.title}: not to be had, ${result.problem.why}` : null;
    }),
  );
  return lines.filter((line) => line !== null);
}

async function letterFor(
  person: User,
  owner: User,
  { dashboardId, name, search }: Sending,
  now: Date,
  signal: AbortSignal,
): Promise<Letter> {
  const opened = await openDashboard(
    { id: dashboardId },
    'published',
    new URLSearchParams(search),
    now,
    askerOf(person),
  );
  if (!opened) throw new Error('the dashboard is not published');
  const { desk, slug, dashboard } = opened.shown;
  const context = await withPicked(opened.context, signal);
  const path = `/desk/${desk.slug}/${slug}${search}`;
  const [numbers, pdf] = await Promise.all([
    numbersOf(context.dashboard.panes, context, signal),
    paperFor(person, { desk: desk.name, title: dashboard.title, path, slug }, signal),
  ]);
  const sentence = scopeSegments(context)
    .map(({ text }) => text)
    .join('');
  const { SLATE_ADDRESS } = settings();
  const day = formatDate(dayOf(now, desk.zone), 'short', { zone: desk.zone, now });
  return {
    to: person.email,
    subject: `${name}, ${day}`,
    text: [
      `${dashboard.title} (${desk.name})`,
      ...(sentence === '' ? [] : [sentence]),
      '',
      ...numbers,
      '',
      `${(SLATE_ADDRESS || ownAddress()) ?? ''}${path}`,
      ...('why' in pdf ? ['', `There is no PDF with it: ${pdf.why}.`] : []),
      '',
      `${owner.name} has it sent to you. The numbers are what you may see.`,
    ].join('\n'),
    pdf: 'why' in pdf ? null : pdf,
  };
}

async function paperFor(
  person: User,
  { desk, title, path, slug }: { desk: string; title: string; path: string; slug: string },
  signal: AbortSignal,
): Promise<{ readonly name: string; readonly bytes: Uint8Array } | { readonly why: string }> {
  try {
    const bytes = await pdfOf({
      user: person,
      seeAs: null,
      desk,
      title,
      dashboards: [{ path, title }],
      sheet: { paper: 'a4', isUpright: false },
      signal,
    });
    return { name: `${slug}.pdf`, bytes };
  } catch (thrown) {
    return { why: problemOf(thrown, 'writing the PDF').why };
  }
}
