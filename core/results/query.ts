import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Order } from '#core/plan/plan.ts';
import type { EntitySet, Property } from './entity.ts';
import { QueryProblem, readFilter } from './filter.ts';

/** What an address asks of an entity set (OData v4, 5.1). */
export interface Query {
  readonly select: readonly Property[];
  readonly where: Filter;
  readonly order: readonly Order[];
  readonly skip: number;
  /** All that are wanted; null: as many as there are. */
  readonly top: number | null;
  readonly wantsCount: boolean;
}

const known = new Set([
  '$select',
  '$filter',
  '$orderby',
  '$top',
  '$skip',
  '$skiptoken',
  '$count',
  '$format',
  '$metadata',
]);

const whole = (name: string, text: string | null): number | null => {
  if (text === null) return null;
  if (!/^\d{1,15}$/.test(text)) throw new QueryProblem(`${name} must be a whole number.`);
  return Number(text);
};

const named = (set: EntitySet, name: string): Property => {
  const found = set.properties.find((each) => each.name === name);
  if (!found) throw new QueryProblem(`There is no property “${name}” here.`);
  return found;
};

/** Reads the options of an address. Throws a {@link QueryProblem}: an option that is not known is not passed over in silence. */
export function readQuery(set: EntitySet, params: URLSearchParams): Query {
  for (const name of params.keys())
    if (name.startsWith('$') && !known.has(name)) throw new QueryProblem(`${name} is not done here.`);
  const select = (params.get('$select') ?? '*')
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);
  const filter = params.get('$filter');
  const order = (params.get('$orderby') ?? '')
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part): Order => {
      const [name = '', way = 'asc', ...more] = part.split(/\s+/);
      if (more.length > 0 || (way !== 'asc' && way !== 'desc'))
        throw new QueryProblem(`$orderby cannot be read at “${part}”.`);
      return { by: named(set, name).field.name, descending: way === 'desc' };
    });
  const token = whole('$skiptoken', params.get('$skiptoken'));
  return {
    select: select.includes('*') ? set.properties : select.map((name) => named(set, name)),
    where: filter === null || filter.trim() === '' ? { all: [] } : readFilter(filter, set.properties),
    order,
    skip: (whole('$skip', params.get('$skip')) ?? 0) + (token ?? 0),
    top: whole('$top', params.get('$top')),
    wantsCount: params.get('$count') === 'true',
  };
}
