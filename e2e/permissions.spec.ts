import type { APIRequestContext } from '@playwright/test';
import routes from '../app/routes.ts';
import { installation } from './support/installation.ts';
import { expect, pageOf, test, type Who } from './support/people.ts';

interface Entry {
  readonly file: string;
  readonly path?: string;
  readonly children?: readonly Entry[];
}

const everyone: readonly (Who | 'nobody')[] = ['nobody', 'reader', 'supervisor', 'analyst', 'admin'];
const readers = ['reader', 'supervisor', 'analyst', 'admin'];
const builders = ['analyst', 'admin'];
const actors = ['supervisor', ...builders];

/** Who may read a route, and who may send it anything. A route that is not in here fails the test. */
const allowed: Record<
  string,
  { get: readonly string[] | 'open'; post: readonly string[] | 'open' | 'none' }
> = {
  'routes/join.tsx': { get: 'open', post: 'open' },
  'routes/account.tsx': { get: readers, post: readers },
  'routes/people.tsx': { get: ['admin'], post: ['admin'] },
  'routes/person.tsx': { get: ['admin'], post: ['admin'] },
  'routes/groups.tsx': { get: ['admin'], post: ['admin'] },
  'routes/desks.tsx': { get: ['admin'], post: ['admin'] },
  'routes/desk-settings.tsx': { get: ['admin'], post: ['admin'] },
  'routes/history.tsx': { get: ['admin'], post: 'none' },
  'routes/see-as.tsx': { get: builders, post: builders },
  'routes/definitions.tsx': { get: builders, post: builders },
  'routes/definitions-file.ts': { get: builders, post: 'none' },
  'routes/draft-review.ts': { get: builders, post: 'none' },
  'routes/draft-here.ts': { get: builders, post: builders },
  'routes/version.tsx': { get: builders, post: 'none' },
  'routes/version-beside.tsx': { get: builders, post: 'none' },
  'routes/versions.tsx': { get: builders, post: 'none' },
  'routes/view-paper.ts': { get: readers, post: 'none' },
  'routes/desk-paper.ts': { get: readers, post: 'none' },
  'routes/access-keys.tsx': { get: readers, post: readers },
  'routes/why.tsx': { get: builders, post: 'none' },
  'routes/public.tsx': { get: 'open', post: 'none' },
  'routes/public-links.tsx': { get: builders, post: builders },
  'routes/sendings.tsx': { get: actors, post: actors },
  'routes/guide.tsx': { get: readers, post: 'none' },
  'routes/menu.tsx': { get: builders, post: builders },
  'routes/home.tsx': { get: readers, post: 'none' },
  'routes/sign-in.tsx': { get: 'open', post: 'open' },
  'routes/sign-in-provider.ts': { get: 'open', post: 'none' },
  'routes/sign-in-done.ts': { get: 'open', post: 'none' },
  'routes/set-up.tsx': { get: 'open', post: 'open' },
  'routes/sign-out.ts': { get: 'open', post: 'open' },
  'routes/look.ts': { get: 'open', post: 'open' },
  'routes/desk.tsx': { get: readers, post: 'none' },
  'routes/view-panes.ts': { get: readers, post: 'none' },
  'routes/view-behind.ts': { get: readers, post: 'none' },
  'routes/view-follow-up.ts': { get: readers, post: actors },
  'routes/view-follow-up-file.ts': { get: readers, post: 'none' },
  'routes/follow-ups.tsx': { get: readers, post: 'none' },
  'routes/follow-ups-count.ts': { get: readers, post: 'none' },
  'routes/view-act.ts': { get: actors, post: actors },
  'routes/view-rows.ts': { get: actors, post: actors },
  'routes/view-find.ts': { get: readers, post: 'none' },
  'routes/view-scopes.ts': { get: readers, post: readers },
  'routes/view-record.ts': { get: readers, post: 'none' },
  'routes/view-values.ts': { get: readers, post: 'none' },
  'routes/workroom-home.tsx': { get: builders, post: 'none' },
  'routes/source-new.tsx': { get: builders, post: builders },
  'routes/source.tsx': { get: builders, post: 'none' },
  'routes/data-set-new.tsx': { get: builders, post: 'none' },
  'routes/data-set.tsx': { get: builders, post: 'none' },
  'routes/data-set-add.ts': { get: builders, post: builders },
  'routes/data-set-save.ts': { get: builders, post: builders },
  'routes/data-set-follow-ups.ts': { get: builders, post: builders },
  'routes/dashboard-new.tsx': { get: builders, post: builders },
  'routes/draft.tsx': { get: builders, post: builders },
  'routes/brief.tsx': { get: builders, post: 'none' },
  'routes/preview.ts': { get: builders, post: builders },
  'routes/view-export.ts': { get: readers, post: 'none' },
  'routes/live.ts': { get: readers, post: 'none' },
  'routes/data-set-export.ts': { get: builders, post: 'none' },
  'routes/data-set-steps.tsx': { get: builders, post: 'none' },
  'routes/data-set-rules.tsx': { get: builders, post: 'none' },
  'routes/changes.tsx': { get: builders, post: 'none' },
  'routes/changes-file.ts': { get: builders, post: 'none' },
  'routes/data-set-changes.tsx': { get: builders, post: 'none' },
  'routes/data-set-lineage.tsx': { get: builders, post: builders },
  'routes/shape.ts': { get: builders, post: builders },
  'routes/data-set-records.tsx': { get: builders, post: builders },
  'routes/upload.tsx': { get: builders, post: builders },
  'routes/upload-receive.ts': { get: builders, post: builders },
  'routes/upload-look.ts': { get: builders, post: builders },
  'routes/try.ts': { get: builders, post: builders },
  'routes/draft-save.ts': { get: builders, post: builders },
  'routes/pane-copy.ts': { get: builders, post: builders },
};

function flat(entries: readonly Entry[]): { file: string; path: string }[] {
  return entries.flatMap(({ file, path, children }) =>
    children ? flat(children) : [{ file, path: `/${path ?? ''}` }],
  );
}

const unknown = '5a1e0000-0000-4000-8000-0000000000ff';
const filled = (path: string): string =>
  path
    // What draws every dashboard of a desk is asked for one that there is not.
    .replace('desk-paper/:desk', 'desk-paper/nowhere')
    .replace(':desk', 'skerry-sound')
    .replace('/:dashboard?', '/morning-brief')
    .replace('/:chapter?', '')
    .replace(/:id/, unknown)
    .replace(':pane', 'x')
    .replace(':file', unknown);

test('every route answers every role as it should', async ({ browser }) => {
  const list = flat(routes as unknown as Entry[]);
  expect(list.map(({ file }) => file).sort()).toEqual(Object.keys(allowed).sort());
  for (const who of everyone) {
    const page = await pageOf(browser, who === 'nobody' ? null : who);
    const request: APIRequestContext = page.context().request;
    const origin = installation().url;
    for (const { file, path } of list) {
      if (file === 'routes/sign-out.ts') continue;
      const rule = allowed[file];
      if (!rule) throw new Error(`${file} has no rule`);
      const answer = await request.get(filled(path), { maxRedirects: 0 });
      const label = `${who} ${path}`;
      if (rule.get !== 'open') {
        if (who === 'nobody')
          expect([answer.status(), answer.headers().location ?? ''], label).toEqual([
            302,
            expect.stringContaining('/sign-in?to='),
          ]);
        else if (rule.get.includes(who)) expect([200, 204, 302, 404, 405], label).toContain(answer.status());
        else expect(answer.status(), label).toBe(403);
      }
      if (rule.post === 'none' || rule.post === 'open') continue;
      // An empty body: whoever may act is told that it is wrong, whoever may not never gets that far.
      const sent = await request.post(`${filled(path)}${/\.tsx$/.test(file) ? '.data' : ''}`, {
        headers: { Origin: origin, 'Content-Type': 'application/x-www-form-urlencoded' },
        data: '',
        maxRedirects: 0,
      });
      if (who === 'nobody') expect(sent.status(), `${label} posting`).toBe(401);
      else if (rule.post.includes(who)) expect([401, 403], `${label} posting`).not.toContain(sent.status());
      else expect(sent.status(), `${label} posting`).toBe(403);
    }
    await page.context().close();
  }
});

test('a reader is told on the page why the workroom and a draft are not for them', async ({ browser }) => {
  const analyst = await pageOf(browser, 'analyst');
  await analyst.goto('/workroom');
  const draft = await analyst.getByRole('link', { name: 'Morning brief' }).getAttribute('href');
  await analyst.context().close();
  const reader = await pageOf(browser, 'reader');
  for (const path of ['/workroom', draft ?? '', '/workroom/sources/new']) {
    const answer = await reader.goto(path);
    expect(answer?.status()).toBe(403);
    await expect(reader.getByRole('heading', { name: 'This is not for your role' })).toBeVisible();
  }
  const id = draft?.split('/').at(-1);
  const panes = await reader.context().request.get(`/view/${id}/panes?_edition=draft&_panes=today`);
  expect(panes.status()).toBe(403);
  await reader.goto('/');
  await expect(reader.getByRole('link', { name: 'Workroom' })).toHaveCount(0);
  await reader.context().close();
});

test('what changes something must come from a page of this server', async ({ browser }) => {
  const page = await pageOf(browser, 'admin');
  const { request } = page.context();
  for (const headers of [{ Origin: 'https://elsewhere.example' }, { Origin: 'null' }, {}] as Record<
    string,
    string
  >[])
    expect(
      (
        await request.post('/workroom/dashboards/new', {
          headers: { 'Content-Type': 'application/x-www-form-urlencoded', ...headers },
          data: 'title=x',
        })
      ).status(),
    ).toBe(403);
  await page.context().close();
});

test('the policy lets no script run but our own, and the cookie is out of reach of scripts', async ({
  browser,
}) => {
  const page = await pageOf(browser, 'reader');
  const answer = await page.goto('/desk/skerry-sound/morning-brief');
  const policy = answer?.headers()['content-security-policy'] ?? '';
  expect(policy).toMatch(/script-src 'self' 'nonce-[A-Za-z0-9+/=]{20,}';/);
  expect(policy).not.toContain('unsafe-eval');
  const [cookie] = (await page.context().cookies()).filter(({ name }) => name === 'slate_session');
  expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Lax' });

  // What is drawn keeps to the policy also where one came from a page that is not there.
  const refused: string[] = [];
  page.on('console', (line) => {
    if (line.text().includes('Content Security Policy')) refused.push(line.text());
  });
  await page.goto('/nothing/here');
  await page.getByRole('link', { name: 'Go to the desk' }).click();
  await expect(page.locator('.apexcharts-bar-area').first()).toBeVisible();
  expect(refused).toEqual([]);
  await page.context().close();
});

test('no page for readers holds a request, an address or the name of a table', async ({ browser }) => {
  const page = await pageOf(browser, 'reader');
  const answer = await page.goto('/desk/skerry-sound/morning-brief');
  const html = (await answer?.text()) ?? '';
  for (const secret of ['sound_reader', 'public.sailings', 'lookUps":[{', 'SELECT '])
    expect(html).not.toContain(secret);
  await page.context().close();
});
