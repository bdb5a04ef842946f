import express, { type Request, type Response, Router } from 'express';
import type { Mischief } from './mischief.ts';
import { type Entity, Refusal, StoresRecords } from './stores-records.ts';

/* The stores service: depots, parts, requisitions and their lines, over OData 4.0. User and password; pages by the server. */

const property = (name: string, type: string, more = ''): string =>
  `<Property Name="${name}" Type="${type}" ${more}/>`;
const entity = (name: string, properties: string): string =>
  `<EntityType Name="${name}"><Key><PropertyRef Name="Id"/></Key><Property Name="Id" Type="Edm.Int32" Nullable="false"/>${properties}</EntityType>`;
const navigation = (name: string, type: string, from: string): string =>
  `<NavigationProperty Name="${name}" Type="Skerry.Stores.${type}"><ReferentialConstraint Property="${from}" ReferencedProperty="Id"/></NavigationProperty>`;
const set = (name: string, type: string, bindings: readonly [string, string][] = []): string =>
  `<EntitySet Name="${name}" EntityType="Skerry.Stores.${type}">${bindings.map(([path, target]) => `<NavigationPropertyBinding Path="${path}" Target="${target}"/>`).join('')}</EntitySet>`;

const metadata = `<?xml version="1.0" encoding="utf-8"?><edmx:Edmx Version="4.0" xmlns:edmx="http://docs.oasis-open.org/odata/ns/edmx"><edmx:DataServices><Schema Namespace="Skerry.Stores" xmlns="http://docs.oasis-open.org/odata/ns/edm">${[
  entity('Depot', property('Code', 'Edm.String', 'Nullable="false"') + property('Name', 'Edm.String')),
  entity(
    'Part',
    property('Number', 'Edm.String') +
      property('Name', 'Edm.String') +
      property('Price', 'Edm.Decimal', 'Scale="2"'),
  ),
  entity(
    'Requisition',
    property('Number', 'Edm.String') +
      property('DepotId', 'Edm.Int32') +
      property('Vessel', 'Edm.String') +
      property('State', 'Edm.String') +
      property('RaisedOn', 'Edm.Date') +
      property('ChangedAt', 'Edm.DateTimeOffset') +
      property('Note', 'Edm.String') +
      navigation('Depot', 'Depot', 'DepotId') +
      '<NavigationProperty Name="Lines" Type="Collection(Skerry.Stores.Line)" Partner="Requisition"/>',
  ),
  entity(
    'Line',
    property('RequisitionId', 'Edm.Int32') +
      property('PartId', 'Edm.Int32') +
      property('Quantity', 'Edm.Int32') +
      property('UnitPrice', 'Edm.Decimal', 'Scale="2"') +
      navigation('Requisition', 'Requisition', 'RequisitionId') +
      navigation('Part', 'Part', 'PartId'),
  ),
  `<EntityContainer Name="Stores">${set('Depots', 'Depot')}${set('Parts', 'Part')}${set(
    'Requisitions',
    'Requisition',
    [
      ['Depot', 'Depots'],
      ['Lines', 'RequisitionLines'],
    ],
  )}${set('RequisitionLines', 'Line', [
    ['Requisition', 'Requisitions'],
    ['Part', 'Parts'],
  ])}</EntityContainer>`,
].join('')}</Schema></edmx:DataServices></edmx:Edmx>`;

const navigations: Record<string, { set: string; by: string }> = {
  Depot: { set: 'Depots', by: 'DepotId' },
  Requisition: { set: 'Requisitions', by: 'RequisitionId' },
  Part: { set: 'Parts', by: 'PartId' },
};
const decimals = new Set(['Price', 'UnitPrice']);

type Test = (entity: Entity) => boolean;

type Value = string | number | null;
type ValueOf = (entity: Entity) => Value;

const comparing: Record<string, (a: Value, b: Value) => boolean> = {
  eq: (a, b) => a === b,
  ne: (a, b) => a !== b,
  gt: (a, b) => a !== null && b !== null && a > b,
  ge: (a, b) => a !== null && b !== null && a >= b,
  lt: (a, b) => a !== null && b !== null && a < b,
  le: (a, b) => a !== null && b !== null && a <= b,
};
const within: Record<string, (text: string, part: string) => boolean> = {
  contains: (text, part) => text.includes(part),
  startswith: (text, part) => text.startsWith(part),
  endswith: (text, part) => text.endsWith(part),
};

/** Comparisons and parts of texts, joined by `and`, `or` and `not`, of properties in lower case or not: as much as its clients ask. */
function readFilter(text: string): Test {
  const terms = text.match(/'(?:[^']|'')*'|[(),]|[^\s(),']+/g) ?? [];
  let at = 0;
  const take = (expected?: string): string => {
    const term = terms[at] ?? '';
    if (expected !== undefined && term !== expected) throw new RangeError(`“${expected}” is missing`);
    at += 1;
    return term;
  };
  const value = (): ValueOf => {
    const term = take();
    if (term === 'tolower') {
      take('(');
      const inner = value();
      take(')');
      return (entity) => {
        const found = inner(entity);
        return found === null ? null : String(found).toLowerCase();
      };
    }
    if (term.startsWith("'")) return () => term.slice(1, -1).replaceAll("''", "'");
    if (term === 'null') return () => null;
    if (/^-?\d+(\.\d+)?$/.test(term)) return () => Number(term);
    if (/^\d{4}-/.test(term)) return () => term;
    return (entity) => {
      const found = entity[term];
      if (found === undefined) throw new RangeError(`there is no property ${term}`);
      return decimals.has(term) ? Number(found) : found;
    };
  };
  const or = (): Test => {
    let left = and();
    while (terms[at] === 'or') {
      at += 1;
      const [before, right] = [left, and()];
      left = (entity) => before(entity) || right(entity);
    }
    return left;
  };
  const and = (): Test => {
    let left = one();
    while (terms[at] === 'and') {
      at += 1;
      const [before, right] = [left, one()];
      left = (entity) => before(entity) && right(entity);
    }
    return left;
  };
  const one = (): Test => {
    const term = terms[at] ?? '';
    if (term === 'not') {
      at += 1;
      const inner = one();
      return (entity) => !inner(entity);
    }
    if (term === '(') {
      at += 1;
      const inner = or();
      take(')');
      return inner;
    }
    const holds = within[term];
    if (holds) {
      at += 1;
      take('(');
      const of = value();
      take(',');
      const part = value();
      take(')');
      return (entity) => holds(String(of(entity) ?? ''), String(part(entity)));
    }
    const left = value();
    const operator = take();
    const right = value();
    const test = comparing[operator];
    if (!test) throw new RangeError(`“${operator}” is not understood`);
    return (entity) => test(left(entity), right(entity));
  };
  const test = or();
  if (at < terms.length) throw new RangeError(`“${terms[at]}” is not understood`);
  return test;
}

export interface StoresOptions {
  readonly user: string;
  readonly password: string;
  /** Who may change records, with the same password; absent: nobody. */
  readonly changer?: string;
  readonly now: () => Date;
  readonly mischief: Mischief;
  readonly pageSize?: number;
  /** A service that does not count. */
  readonly withoutCounts?: boolean;
}

export function storesService({
  user,
  password,
  changer,
  now,
  mischief,
  pageSize = 100,
  withoutCounts = false,
}: StoresOptions): Router {
  const router = Router();
  const signsIn = (request: Request, as: string | undefined): boolean =>
    as !== undefined &&
    request.get('authorization') === `Basic ${Buffer.from(`${as}:${password}`).toString('base64')}`;
  router.use((request, response, next) => {
    response.set('OData-Version', '4.0');
    if (signsIn(request, user) || signsIn(request, changer)) next();
    else
      response
        .set('WWW-Authenticate', 'Basic realm="stores"')
        .status(401)
        .json({ error: { code: '401', message: 'sign in' } });
  });
  router.use(mischief.handler('stores'));
  router.get('/\\$metadata', (_, response) => {
    response.type('application/xml').send(metadata);
  });
  const records = new StoresRecords(now);
  const refused = (response: Response, thrown: unknown): void => {
    if (!(thrown instanceof Refusal)) throw thrown;
    const { status, message } = thrown;
    response.status(status).json({ error: { code: String(status), message } });
  };
  const one = /^\/(\w+)\((\d+)\)$/;
  const answerOne = (
    request: Request,
    response: Response,
    set: string,
    entity: Entity,
    withLines = false,
  ): void => {
    const isText = /IEEE754Compatible=true/i.test(request.get('accept') ?? '');
    const select = typeof request.query.$select === 'string' ? request.query.$select : undefined;
    const tag = records.tagOf(entity);
    response.set('ETag', tag).json({
      '@odata.context': `$metadata#${set}/$entity`,
      '@odata.etag': tag,
      ...shaped(entity, (name) => (name === '$select' ? select : undefined), records, isText),
      ...(withLines
        ? { Lines: records.linesOf(entity).map((line) => shaped(line, () => undefined, records, isText)) }
        : {}),
    });
  };
  /** Answers about one record as it is, or about a change of it. */
  const withOne =
    (use: (request: Request, response: Response, set: string, entity: Entity) => void) =>
    (request: Request, response: Response): void => {
      const [, set = '', id = ''] = one.exec(request.path) ?? [];
      const entity = records.find(set, Number(id));
      const isChange = request.method !== 'GET';
      const match = request.get('if-match');
      try {
        if (isChange && !signsIn(request, changer)) throw new Refusal(403, 'you may only read');
        if (!entity) throw new Refusal(404, 'there is no such record');
        if (isChange && match !== undefined && match !== '*' && match !== records.tagOf(entity))
          throw new Refusal(412, 'it was changed meanwhile');
        use(request, response, set, entity);
      } catch (thrown) {
        refused(response, thrown);
      }
    };
  router.get(one, withOne(answerOne));
  router.patch(
    one,
    express.json(),
    withOne((request, response, set, { Id }) => {
      records.change(set, Number(Id), request.body);
      response.status(204).end();
    }),
  );
  router.delete(
    one,
    withOne((_, response, set, { Id }) => {
      records.remove(set, Number(Id));
      response.status(204).end();
    }),
  );
  router.post('/:set', express.json(), (request: Request, response: Response) => {
    const set = String(request.params.set);
    try {
      if (!signsIn(request, changer)) throw new Refusal(403, 'you may only read');
      if (!records.of(set)) throw new Refusal(404, 'there is no such set');
      const entity = records.add(set, request.body, request.get('repeatability-request-id'));
      response.status(201);
      // As much as was given is answered with (section 11.4.2.2).
      answerOne(request, response, set, entity, Array.isArray(request.body.Lines));
    } catch (thrown) {
      refused(response, thrown);
    }
  });
  router.get('/:set/\\$count', (request: Request, response: Response) => {
    const all = records.of(String(request.params.set));
    const filter = request.query.$filter;
    if (!all || withoutCounts)
      response.status(404).json({ error: { code: '404', message: 'there is no count' } });
    else
      try {
        const kept = typeof filter === 'string' ? all.filter(readFilter(filter)) : all;
        response.type('text/plain').send(String(kept.length));
      } catch (thrown) {
        response.status(400).json({ error: { code: '400', message: String(thrown) } });
      }
  });
  router.get('/:set', (request: Request, response: Response) => {
    const all = records.of(String(request.params.set));
    const wrong = (status: number, message: string) =>
      response.status(status).json({ error: { code: String(status), message } });
    if (!all) return wrong(404, 'there is no such set');
    const option = (name: string): string | undefined =>
      typeof request.query[name] === 'string' ? String(request.query[name]) : undefined;
    try {
      const filter = option('$filter');
      const kept = filter ? all.filter(readFilter(filter)) : all;
      const skip = Number(option('$skiptoken') ?? option('$skip') ?? 0);
      const most = Math.min(Number(option('$top') ?? Number.POSITIVE_INFINITY), kept.length - skip);
      const isText = /IEEE754Compatible=true/i.test(request.get('accept') ?? '');
      const page = kept
        .slice(skip, skip + Math.min(pageSize, most))
        .map((each) => shaped(each, option, records, isText));
      const next =
        most > pageSize
          ? nextLink(request, skip + pageSize, option('$top') ? Number(option('$top')) - pageSize : null)
          : null;
      response.json({
        '@odata.context': '$metadata',
        ...(option('$count') === 'true' && !withoutCounts ? { '@odata.count': kept.length } : {}),
        value: page,
        ...(next ? { '@odata.nextLink': next } : {}),
      });
    } catch (thrown) {
      return wrong(400, thrown instanceof Error ? thrown.message : String(thrown));
    }
    return undefined;
  });
  return router;
}

function nextLink(request: Request, skip: number, top: number | null): string {
  const address = new URL(`${request.protocol}://${request.get('host')}${request.originalUrl}`);
  address.searchParams.set('$skiptoken', String(skip));
  if (top !== null) address.searchParams.set('$top', String(top));
  return address.href;
}

function shaped(
  entity: Entity,
  option: (name: string) => string | undefined,
  records: StoresRecords,
  isText: boolean,
): Record<string, unknown> {
  const pick = (from: Entity, names: readonly string[] | null): Record<string, unknown> =>
    Object.fromEntries(
      Object.entries(from)
        .filter(([name]) => names === null || names.includes(name))
        .map(([name, value]) => [name, decimals.has(name) && !isText ? Number(value) : value]),
    );
  const selected = option('$select')?.split(',') ?? null;
  const expanded = [...(option('$expand') ?? '').matchAll(/(\w+)(?:\(\$select=([\w,]+)\))?/g)].flatMap(
    ([, name = '', names]) => {
      const way = navigations[name];
      if (!way) return [];
      const target = records.of(way.set)?.find(({ Id }) => Id === entity[way.by]);
      return [[name, target ? pick(target, names?.split(',') ?? null) : null] as const];
    },
  );
  return { ...pick(entity, selected), ...Object.fromEntries(expanded) };
}
