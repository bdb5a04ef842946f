import { type Request, type Response, Router } from 'express';
import { seeded } from '#demo/random.ts';
import type { Mischief } from './mischief.ts';

/* The stores service: depots, parts, requisitions and their lines, over OData 4.0. User and password; pages by the server. */

type Entity = Record<string, string | number | null>;

const depots: Entity[] = ['Skerryhaven', 'Norrick', 'Fenwold Bay', 'Auldstaithe'].map((Name, index) => ({
  Id: index + 1,
  // Two depots have one code.
  Code: ['SKH', 'NRK', 'FNB', 'NRK'][index] ?? '',
  Name,
}));
const partNames = [
  'Gasket',
  'Impeller',
  'Hawser',
  'Fender',
  'Lamp',
  'Pump seal',
  'Filter',
  'Shackle',
  'Life ring',
  'Valve',
];
const parts: Entity[] = partNames.map((Name, index) => ({
  Id: index + 1,
  Number: `P-${String(index * 37 + 104).padStart(4, '0')}`,
  Name,
  Price: (4.5 + index * 13.37).toFixed(2),
}));
const states = ['open', 'approved', 'delivered', 'refused'] as const;

function requisitions(now: Date): Entity[] {
  return Array.from({ length: 240 }, (_, index) => {
    const random = seeded(index + 11);
    const day = new Date(now.getTime() - random.between(0, 120) * 86_400_000);
    return {
      Id: index + 1,
      Number: `RQ-${5000 + index}`,
      DepotId: random.between(1, depots.length),
      Vessel: random.pick(['Kittiwake', 'Storm Petrel', 'Guillemot', 'Fulmar', 'Eider']),
      State: random.pick(states),
      RaisedOn: day.toISOString().slice(0, 10),
      ChangedAt: day.toISOString(),
      Note: random.chance(0.3) ? 'wanted before the next sailing' : null,
    };
  });
}

const lines: Entity[] = Array.from({ length: 720 }, (_, index) => {
  const random = seeded(index + 977);
  return {
    Id: index + 1,
    RequisitionId: 1 + (index % 240),
    PartId: random.between(1, parts.length),
    Quantity: random.between(1, 12),
    UnitPrice: (3 + random.between(0, 9000) / 100).toFixed(2),
  };
});

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
      navigation('Depot', 'Depot', 'DepotId'),
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
  `<EntityContainer Name="Stores">${set('Depots', 'Depot')}${set('Parts', 'Part')}${set('Requisitions', 'Requisition', [['Depot', 'Depots']])}${set(
    'RequisitionLines',
    'Line',
    [
      ['Requisition', 'Requisitions'],
      ['Part', 'Parts'],
    ],
  )}</EntityContainer>`,
].join('')}</Schema></edmx:DataServices></edmx:Edmx>`;

const navigations: Record<string, { set: string; by: string }> = {
  Depot: { set: 'Depots', by: 'DepotId' },
  Requisition: { set: 'Requisitions', by: 'RequisitionId' },
  Part: { set: 'Parts', by: 'PartId' },
};
const decimals = new Set(['Price', 'UnitPrice']);

type Sets = ReadonlyMap<string, () => Entity[]>;
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
  readonly now: () => Date;
  readonly mischief: Mischief;
  readonly pageSize?: number;
  /** A service that does not count. */
  readonly withoutCounts?: boolean;
}

export function storesService({
  user,
  password,
  now,
  mischief,
  pageSize = 100,
  withoutCounts = false,
}: StoresOptions): Router {
  const router = Router();
  const expected = `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}`;
  router.use((request, response, next) => {
    response.set('OData-Version', '4.0');
    if (request.get('authorization') === expected) next();
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
  const sets: Sets = new Map([
    ['Depots', () => depots],
    ['Parts', () => parts],
    ['Requisitions', () => requisitions(now())],
    ['RequisitionLines', () => lines],
  ]);
  router.get('/:set/\\$count', (request: Request, response: Response) => {
    const all = sets.get(String(request.params.set))?.();
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
    const all = sets.get(String(request.params.set))?.();
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
        .map((each) => shaped(each, option, sets, isText));
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
  sets: Sets,
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
      const target = sets
        .get(way.set)?.()
        .find(({ Id }) => Id === entity[way.by]);
      return [[name, target ? pick(target, names?.split(',') ?? null) : null] as const];
    },
  );
  return { ...pick(entity, selected), ...Object.fromEntries(expanded) };
}
