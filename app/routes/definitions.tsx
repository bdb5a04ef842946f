import { z } from 'zod';
import { readDefinitions } from '#core/definitions/file.ts';
import { bringIn, offeredSources, reviewFile, type SourceChoice } from '#server/definitions/bring-in.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { Page } from '../ui/page.tsx';
import { BringIn } from '../workroom/definitions/bring-in.tsx';
import type { FileAnswer } from '../workroom/definitions/file-answer.ts';
import { TakeOut } from '../workroom/definitions/take-out.tsx';
import type { Route } from './+types/definitions';

interface Loaded {
  readonly desks: readonly { readonly id: string; readonly slug: string; readonly name: string }[];
}

export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build'),
  async ({ user }) => ({
    desks: (await desksOf(user, 'build')).map(({ id, slug, name }) => ({ id, slug, name })),
  }),
);

const Sent = z.object({
  text: z.string(),
  step: z.enum(['look', 'bring in']),
  /** By the id that a source has in the file. */
  sources: z
    .record(z.uuid(), z.union([z.object({ here: z.uuid() }), z.object({ secret: z.string().max(20_000) })]))
    .default({}),
  desk: z.uuid().optional(),
  publishes: z.boolean().default(false),
});

/** Says what a file would do, or brings it in. */
export const action = guardedAction(
  to('build'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<FileAnswer> => {
    const sent = Sent.safeParse(await request.json().catch(() => null));
    if (!sent.success) return { state: 'refused', why: ['The file could not be sent. Choose it again.'] };
    const { text, step, desk, publishes } = sent.data;
    const read = readDefinitions(text);
    if (!read.ok) return { state: 'refused', why: read.why };
    const offered = await offeredSources(read.file);
    const choices = new Map<string, SourceChoice>(
      offered.flatMap(({ id, likely }) => (likely ? [[id, { here: likely }] as const] : [])),
    );
    for (const [id, choice] of Object.entries(sent.data.sources)) choices.set(id, choice);
    if (step === 'look')
      return { state: 'looked', sources: offered, items: await reviewFile(read.file, choices) };
    const desks = await desksOf(user, 'build');
    const where = desks.find(({ id }) => id === desk) ?? desks[0];
    if (!where) return { state: 'refused', why: ['There is no desk to put dashboards on. Add one first.'] };
    const done = await bringIn(read.file, { choices, deskId: where.id, publishes, by: user.id });
    return done.ok
      ? { state: 'brought in', items: done.items }
      : { state: 'refused', why: done.why, sources: offered, items: await reviewFile(read.file, choices) };
  },
);

export default function Definitions({ loaderData: { desks } }: Route.ComponentProps) {
  return (
    <Page
      title="Definitions as files"
      lead="Dashboards, data sets and sources without their credentials, as text: to move them to another installation, or to keep under version control."
    >
      <div className="grid gap-x-12 gap-y-10 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.8fr)]">
        <TakeOut desks={desks} />
        <BringIn desks={desks} />
      </div>
    </Page>
  );
}
