import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { type NextFunction, type Request, type Response, Router } from 'express';
import { ask } from '#core/dashboard/flow/ask.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { relationWith, unsetInputs } from '#core/plan/relation.ts';
import { type EntitySet, entitySets, jsonValue, metadata } from '#core/results/entity.ts';
import { QueryProblem } from '#core/results/filter.ts';
import { readQuery } from '#core/results/query.ts';
import { parseValue } from '#core/value/field/value.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { exportFormatNames } from '#core/words/export-formats.ts';
import { exportDataSet, exportList } from '../export/export.ts';
import { isId } from '../ids.ts';
import { contextOf } from '../panes/context.ts';
import { withPicked } from '../panes/picked.ts';
import { countRecords, runPlan } from '../records/run.ts';
import { basePath } from '../settings.ts';
import type { DashboardWithData } from '../store/dashboards.ts';
import { worldOf } from '../store/data-sets.ts';
import { currentVersionIds } from '../store/kept.ts';
import { limitsOf, refusal } from '../store/limits.ts';
import { zoneOf } from '../store/zone.ts';
import { inTurn } from '../turns/in-turn.ts';
import { openApi } from './open-api.ts';
import { dashboardOf, dataSetsOf, type Program, programOf } from './reach.ts';

/*
 * Results for programs, which have a key and no cookie: what a data set or a pane of a dashboard holds as files, and data sets as an OData
 * service. Nothing can be changed here.
 */

/** Requests of one key in a minute. */
const mostInMinute = 600;
const pageSize = 1_000;
const largestPage = 10_000;

const limited = limitsOf((limiter) => limiter('program', mostInMinute, 60));

const refuse = (response: Response, status: number, message: string): void =>
  void response.status(status).json({ error: { code: String(status), message } });

type Answer = (request: Request, response: Response, program: Program) => Promise<void>;

/** Answers whoever has a key, as often as a key may ask; everything that goes wrong is said in one form. */
const forPrograms =
  (answer: Answer) =>
  async (request: Request, response: Response, _next: NextFunction): Promise<void> => {
    try {
      const program = await programOf(request);
      if (!program) {
        response.set('WWW-Authenticate', 'Basic realm="Slate Glass", charset="UTF-8"');
        return refuse(
          response,
          401,
          'A key is needed: as a bearer token, or as the password with any user name.',
        );
      }
      const wait = await refusal(limited().consume(program.key.id));
      if (wait !== null) {
        response.set('Retry-After', String(Math.ceil(wait / 1000)));
        return refuse(response, 429, `A key may ask ${mostInMinute} times a minute.`);
      }
      await answer(request, response, program);
    } catch (thrown) {
      if (response.headersSent) return void response.destroy();
      if (thrown instanceof QueryProblem) return refuse(response, 400, thrown.message);
      const { code, why, mend } = problemOf(thrown, 'answering a program');
      const status =
        code === 'bad-request' ? 400 : code === 'too-much' ? 429 : code === 'internal' ? 500 : 503;
      refuse(response, status, `${why}. ${mend}`);
    }
  };

const signalOf = (request: Request, response: Response): AbortSignal => {
  const gone = new AbortController();
  response.once('close', () => response.writableFinished || gone.abort());
  request.once('aborted', () => gone.abort());
  return gone.signal;
};

/** Sends a web answer of ours through Express; what nobody takes any more is given up. */
async function send(answer: globalThis.Response, response: Response): Promise<void> {
  response.status(answer.status);
  for (const [name, value] of answer.headers) response.setHeader(name, value);
  if (!answer.body) return void response.end();
  await pipeline(Readable.fromWeb(answer.body as WebStream<Uint8Array>), response).catch(
    (thrown: unknown) => {
      if (!response.destroyed) throw thrown;
    },
  );
}

const formatOf = (name: unknown) => exportFormatNames.find((each) => each === name) ?? null;

/** What changes whenever the records, the definition or the person’s view of them do; null where records are asked for each time. */
async function stampOf(set: Pick<EntitySet, 'id' | 'dataSet'>, { asker }: Program): Promise<string | null> {
  const world = new Map([...(await worldOf(set.dataSet)), [set.id, set.dataSet]]);
  const all = [...comesFrom(set.id, world)].map((id) => [id, world.get(id)] as const);
  const bases = all.filter(([, dataSet]) => dataSet?.request.kind !== 'of');
  if (bases.some(([, dataSet]) => !dataSet?.keep)) return null;
  const versions = await currentVersionIds(bases.map(([id]) => id));
  const { attributes, seesAll } = asker;
  return createHash('sha256')
    .update(JSON.stringify([all, [...versions].sort(), attributes, seesAll]))
    .digest('base64url')
    .slice(0, 27);
}

/** Answers that nothing is otherwise, where the program has it already. */
function isKnown(stamp: string | null, request: Request, response: Response): boolean {
  if (stamp === null) return false;
  const tag = `W/"${stamp}"`;
  response.set('ETag', tag);
  if (request.get('if-none-match') !== tag) return false;
  response.status(304).end();
  return true;
}

const dataSetFile: Answer = async (request, response, program) => {
  const { id, format: named } = request.params;
  const format = formatOf(named);
  const stored = (await dataSetsOf(program)).find((each) => each.id === id);
  if (!stored || !format) return refuse(response, 404, 'There is nothing of this name for this key.');
  if (isKnown(await stampOf({ id: stored.id, dataSet: stored.definition }, program), request, response))
    return;
  const signal = signalOf(request, response);
  const [world, zone] = await Promise.all([worldOf(stored.definition), zoneOf(stored.id)]);
  // A turn lasts until the file is written, and not until a slow program has taken it.
  const file = await inTurn(
    'download',
    program.user.id,
    () => exportDataSet(stored, world, { zone, now: new Date(), format, signal, person: program.asker }),
    signal,
  );
  await send(file, response);
};

const paneFile: Answer = async (request, response, program) => {
  const { id, pane: paneId, format: named } = request.params;
  const format = formatOf(named);
  const found = isId(id) ? await dashboardOf(program, id) : null;
  const pane = found?.dashboard.panes.find((each) => each.id === paneId);
  if (!found || !pane || !format) return refuse(response, 404, 'There is nothing of this name for this key.');
  const signal = signalOf(request, response);
  const params = new URL(request.originalUrl, 'http://x').searchParams;
  const { context, problems } = contextOf(found, params, new Date(), program.asker);
  if (problems.length > 0) return refuse(response, 400, problems.join(' '));
  const file = await inTurn(
    'download',
    program.user.id,
    async () => exportList(pane, await withPicked(context, signal), format, signal),
    signal,
  );
  await send(file, response);
};

/** The panes that list records as they open. */
function listing(found: DashboardWithData, { asker }: Program): Pane[] {
  const { context } = contextOf(found, new URLSearchParams(), new Date(), asker);
  return context.dashboard.panes.filter((pane) => {
    const question = ask(pane, context);
    return question.state === 'asking' && question.list !== undefined;
  });
}

/** What a key reaches, with where to ask for it. */
const contents: Answer = async (_request, response, program) => {
  const [dataSets, dashboards] = await Promise.all([
    dataSetsOf(program),
    Promise.all(program.key.dashboards.map((id) => dashboardOf(program, id))),
  ]);
  response.json({
    dataSets: dataSets.map(({ id, name }) => ({
      id,
      name,
      records: `${basePath()}/results/data-sets/${id}/records.json`,
    })),
    dashboards: dashboards.flatMap((found) =>
      found
        ? [
            {
              id: found.id,
              title: found.dashboard.title,
              panes: listing(found, program).map(({ id, title }) => ({
                id,
                title,
                records: `${basePath()}/results/dashboards/${found.id}/panes/${id}.json`,
              })),
            },
          ]
        : [],
    ),
    odata: `${basePath()}/results/odata/`,
  });
};

const serviceRoot = (request: Request): string =>
  `${request.protocol}://${request.get('host')}${basePath()}/results/odata/`;

/** JSON of OData, numbers with all their digits. */
function sendJson(response: Response, text: string): void {
  response.set('OData-Version', '4.01').type('application/json; odata.metadata=minimal').send(text);
}

const service: Answer = async (request, response, program) => {
  const sets = entitySets(await dataSetsOf(program));
  const root = serviceRoot(request);
  sendJson(
    response,
    JSON.stringify({
      '@odata.context': `${root}$metadata`,
      value: sets.map(({ name, title }) => ({ name, kind: 'EntitySet', url: name, title })),
    }),
  );
};

const described: Answer = async (_request, response, program) => {
  response
    .set('OData-Version', '4.01')
    .type('application/xml')
    .send(metadata(entitySets(await dataSetsOf(program))));
};

const entities: Answer = async (request, response, program) => {
  const [, name = '', of = ''] =
    /^([A-Za-z_]\w*)(\(.*\)|\/\$count)?$/.exec(request.params.set as string) ?? [];
  const set = entitySets(await dataSetsOf(program)).find((each) => each.name === name);
  if (!set) return refuse(response, 404, 'There is no entity set of this name for this key.');
  const signal = signalOf(request, response);
  const params = new URL(request.originalUrl, 'http://x').searchParams;
  const query = readQuery(set, params);
  const doing = `reading ${set.title}`;
  const [world, zone] = await Promise.all([worldOf(set.dataSet), zoneOf(set.id)]);
  const key = set.dataSet.key;
  const plan: RecordsPlan = {
    kind: 'records',
    from: relationWith(set.dataSet, set.id, unsetInputs(set.dataSet), {
      world,
      clock: { now: new Date(), zone },
      person: program.asker,
    }),
    zone,
    where: query.where,
    fields: query.select.map(({ field }) => field.name),
    order: query.order.length > 0 || key === undefined ? query.order : [{ by: key }],
    ...(key === undefined ? {} : { key }),
    offset: 0,
    limit: 0,
  };
  if (request.params.count) {
    response.type('text/plain').send(await countRecords(plan, { doing, signal }));
    return;
  }
  const asText = /IEEE754Compatible=true/i.test(request.get('accept') ?? '');
  const record = (cells: readonly unknown[]): string =>
    query.select
      .map(
        ({ name: own, field }, at) =>
          `${JSON.stringify(own)}:${jsonValue(cells[at] as never, field.type, asText)}`,
      )
      .join(',');
  const root = serviceRoot(request);
  if (of.startsWith('(')) {
    const read = set.key
      ? parseValue(
          set.key.field.type,
          of.slice(1, -1).replace(/^'(.*)'$/s, (_, text: string) => text.replaceAll("''", "'")),
        )
      : null;
    if (!set.key || !read?.ok) return refuse(response, 404, 'There is no such record.');
    const where = { field: set.key.field.name, test: { op: 'same' as const, value: read.value } };
    const { records } = await runPlan({ ...plan, where, limit: 1 }, { doing, signal });
    if (!records[0]) return refuse(response, 404, 'There is no such record.');
    return sendJson(
      response,
      `{"@odata.context":${JSON.stringify(`${root}$metadata#${set.name}/$entity`)},${record(records[0])}}`,
    );
  }
  if (isKnown(await stampOf(set, program), request, response)) return;
  const preferred = Number(/maxpagesize=(\d+)/i.exec(request.get('prefer') ?? '')?.[1] ?? pageSize);
  const size = Math.min(largestPage, Math.max(1, preferred));
  const token = Number(params.get('$skiptoken') ?? 0);
  const left = query.top === null ? Number.POSITIVE_INFINITY : Math.max(0, query.top - token);
  // One more tells whether there are more.
  const limit = Math.min(size, left) + (left > size ? 1 : 0);
  const [found, count] = await Promise.all([
    limit === 0
      ? Promise.resolve([])
      : runPlan({ ...plan, offset: query.skip, limit }, { doing, signal }).then(({ records }) => records),
    query.wantsCount ? countRecords(plan, { doing, signal }) : Promise.resolve(null),
  ]);
  const page = found.slice(0, Math.min(size, left));
  const next = new URL(request.originalUrl, root);
  next.searchParams.set('$skiptoken', String(token + page.length));
  sendJson(
    response,
    `${[
      `{"@odata.context":${JSON.stringify(`${root}$metadata#${set.name}`)}`,
      ...(count === null ? [] : [`"@odata.count":${count}`]),
      `"value":[${page.map((cells) => `\n{${record(cells)}}`).join(',')}]`,
      ...(found.length > page.length ? [`"@odata.nextLink":${JSON.stringify(next.href)}`] : []),
    ].join(',')}}\n`,
  );
};

/** The routes of results. They stand before everything that is about people and their browsers. */
export function resultRoutes(): Router {
  const router = Router();
  router.use((_, response, next) => {
    response.set({ 'Cache-Control': 'private, no-cache', 'X-Content-Type-Options': 'nosniff' });
    next();
  });
  router.get('/open-api.json', (_, response) => void response.json(openApi(basePath())));
  router.get('/', forPrograms(contents));
  router.get('/data-sets/:id/records.:format', forPrograms(dataSetFile));
  router.get('/dashboards/:id/panes/:pane.:format', forPrograms(paneFile));
  router.get('/odata/', forPrograms(service));
  router.get('/odata/$metadata', forPrograms(described));
  router.get('/odata/:set/:count', (request, response, next) => {
    if (request.params.count === '$count') return forPrograms(entities)(request, response, next);
    refuse(response, 404, 'There is nothing under this name.');
  });
  router.get('/odata/:set', forPrograms(entities));
  router.use((_, response) =>
    refuse(response, 404, 'There is nothing under this address, and nothing can be changed here.'),
  );
  return router;
}
