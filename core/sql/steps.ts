import type { Filter } from '#core/condition/resolve.ts';
import { checkExpression } from '#core/expression/check.ts';
import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import { labelOf } from '#core/field/value.ts';
import type { Calculation } from '#core/measure/schema.ts';
import type { Unit } from '#core/period/units.ts';
import {
  calculationFields,
  type Order,
  type PlannedCalculation,
  type PlannedStep,
  type Relation,
} from '#core/plan/plan.ts';
import { stepStopped } from '#core/problem/problem.ts';
import { plainNames, stepMakes, stepReads, stepRecords, tied, unreadName } from '#core/step/kinds.ts';
import type { Making, Step, StepOf } from '#core/step/schema.ts';
import { linkParts } from '#core/step/template.ts';
import { type FieldSql, filterSql } from './condition.ts';
import { convertSql } from './convert.ts';
import type { Dialect } from './dialect.ts';
import { expressionSql } from './expression.ts';
import { and, bind, comma, identifier, join, ordinal, type Sql, sql } from './fragment.ts';
import { measureSql } from './measure.ts';
import { relationSql } from './relation.ts';

/* Steps as SQL: each is a SELECT around the one before it, with only the fields that are wanted further on. */

/** A step with what is wanted before and after it. */
interface Wanting {
  readonly planned: PlannedStep;
  readonly wanted: ReadonlySet<string>;
}

/** From the last step back: what each must yield, and what the request itself must; steps that add nothing wanted are left out. */
function wantings(
  relation: Pick<Relation, 'steps'>,
  needed: ReadonlySet<string>,
): { steps: Wanting[]; base: Set<string> } {
  let wanted = new Set(needed);
  const steps: Wanting[] = [];
  for (const planned of [...(relation.steps ?? [])].reverse()) {
    const { step, before } = planned;
    const makes = stepMakes(step, before);
    const isAdding = stepRecords(step) === 'same' && step.kind !== 'rename' && step.kind !== 'fields';
    if (step.kind === 'fields' || (isAdding && !makes.some((name) => wanted.has(name)))) continue;
    steps.unshift({ planned, wanted });
    wanted = new Set(neededBefore(step, wanted, before, makes));
  }
  return { steps, base: wanted };
}

function neededBefore(
  step: Step,
  wanted: ReadonlySet<string>,
  before: readonly Field[],
  makes: readonly string[],
): string[] {
  const has = new Set(before.map(({ name }) => name));
  const reads = stepReads(step, before);
  if (step.kind === 'summarise' || step.kind === 'wide') return [...reads];
  const passes = [...wanted].filter((name) => has.has(name) && !makes.includes(name));
  if (step.kind === 'derive') return [...passes, ...reads];
  if (step.kind === 'periods') return [...passes, ...reads, ...step.zero.filter((name) => wanted.has(name))];
  return [...passes, ...reads];
}

/** The requests that a relation comes from, each with the fields that are needed of it: its own, and those of look-ups and stacks. */
export function basesOf(
  relation: Relation,
  needed: ReadonlySet<string>,
): { readonly base: Relation; readonly needed: ReadonlySet<string> }[] {
  const { steps, base } = wantings(relation, needed);
  return [
    { base: relation, needed: base },
    ...steps.flatMap(({ planned, wanted }) =>
      planned.others.flatMap((other, index) =>
        basesOf(other, new Set(neededOfOther(planned.step, index, wanted, other))),
      ),
    ),
  ];
}

/** The fields that a step needs of another data set. */
function neededOfOther(step: Step, _: number, wanted: ReadonlySet<string>, other: Relation): string[] {
  if (step.kind === 'stack') return other.fields.map(({ name }) => name).filter((name) => wanted.has(name));
  if (step.kind !== 'lookUp') return [];
  const keys = step.on.map((each) => each.other);
  const order = step.order.map(({ by }) => by);
  switch (step.mode) {
    case 'one':
      return [...keys, ...step.take.map(({ field }) => field)];
    case 'first':
    case 'all':
      return [...keys, ...step.take.map(({ field }) => field), ...order, ...tied([], other.fields)];
    case 'count':
    case 'any':
      return keys;
    case 'aggregate':
      return [...keys, ...(step.calculation ? calculationFields(step.calculation) : [])];
  }
}

/**
 * The steps of a relation in two parts: those that decide which records there are and in which order, and those after that
 * only add to each record by itself. The second part can be left until a page has been cut out.
 */
export function laterSteps(
  relation: Relation,
  deciding: readonly string[],
): { readonly first: Relation; readonly later: readonly PlannedStep[] } {
  const needed = new Set(deciding);
  const later: PlannedStep[] = [];
  const first: PlannedStep[] = [];
  for (const planned of [...(relation.steps ?? [])].reverse()) {
    const { step, before } = planned;
    const makes = stepMakes(step, before);
    const reads = stepReads(step, before);
    const remade = new Set(
      first.flatMap((each) => [
        ...stepMakes(each.step, each.before),
        ...(each.step.kind === 'rename' ? [each.step.field] : []),
      ]),
    );
    const canWait =
      addsToEach.has(step.kind) &&
      !makes.some((name) => needed.has(name)) &&
      ![...makes, ...reads].some((name) => remade.has(name)) &&
      !first.some((each) => stepRecords(each.step) === 'other') &&
      !(step.kind === 'fill' && step.with.kind === 'before');
    // It comes after steps that were behind it, so their fields are before it too.
    if (canWait)
      later.unshift({
        ...planned,
        before: joinedFields(
          before,
          relation.fields.filter(({ name }) => !makes.includes(name)),
        ),
      });
    else {
      first.unshift(planned);
      for (const name of makes) needed.delete(name);
      for (const name of reads) needed.add(name);
    }
  }
  return { first: { ...relation, steps: first }, later };
}

const joinedFields = (fields: readonly Field[], more: readonly Field[]): Field[] => [
  ...fields,
  ...more.filter(({ name }) => !fields.some((field) => field.name === name)),
];

/** Steps that work on one record at a time and keep it. */
const addsToEach: ReadonlySet<Step['kind']> = new Set([
  'derive',
  'type',
  'spread',
  'lookUp',
  'fill',
  'fields',
]);

/** Later steps over a query that yields what they need; see {@link laterSteps}. */
export function laterSql(
  later: readonly PlannedStep[],
  wanted: ReadonlySet<string>,
  inner: (needed: ReadonlySet<string>) => Sql,
  dialect: Dialect,
  zone: string,
): Sql {
  const steps = wantings({ steps: later }, wanted);
  return steps.steps.reduce(
    (inside, { planned, wanted: each }) => stepSql(planned, inside, each, dialect, zone),
    inner(steps.base),
  );
}

/** A relation as a SELECT that yields only the fields named, under their own names. */
export function shapedSql(
  relation: Relation,
  needed: ReadonlySet<string>,
  dialect: Dialect,
  zone: string,
): Sql {
  const { steps, base } = wantings(relation, needed);
  const start: Relation = relation.start ? { ...relation, fields: relation.start } : relation;
  const inner = relationSql(start, base, dialect);
  return steps.reduce(
    (inside, { planned, wanted }) => stepSql(planned, inside, wanted, dialect, zone),
    inner,
  );
}

interface Tools {
  readonly dialect: Dialect;
  readonly zone: string;
  readonly now: string;
  readonly before: readonly Field[];
  readonly inner: Sql;
  readonly wanted: ReadonlySet<string>;
  /** A field of the records before, read as fields are. */
  readonly field: FieldSql;
  readonly filters: readonly Filter[];
  readonly others: readonly Relation[];
  /** The fields wanted after that were there before, as columns of their own, but for some. */
  readonly passing: (but?: readonly string[]) => Sql[];
}

const select = (columns: readonly Sql[], from: Sql, rest = sql``): Sql =>
  sql`SELECT ${columns.length === 0 ? sql`1 AS one` : join(columns, comma)} FROM ${from}${rest}`;

const named = (value: Sql, name: string): Sql => sql`${value} AS ${identifier(name)}`;

/** Reads fields of an alias: text that is empty is blank. */
const reader =
  (alias: Sql, fields: readonly Field[]): FieldSql =>
  (name) => {
    const field = fields.find((each) => each.name === name);
    if (!field) throw new RangeError(`no field “${name}”`);
    const column = sql`${alias}.${identifier(name)}`;
    return { field, value: field.type === 'text' ? sql`nullif(${column}, '')` : column };
  };

function stepSql(
  { step, before, filters, others, now }: PlannedStep,
  inner: Sql,
  wanted: ReadonlySet<string>,
  dialect: Dialect,
  zone: string,
): Sql {
  const names = before.map(({ name }) => name);
  const tools: Tools = {
    dialect,
    zone,
    now: now ?? '1970-01-01T00:00:00Z',
    before,
    inner: sql`(${inner}) AS s`,
    wanted,
    field: reader(sql`s`, before),
    filters,
    others,
    passing: (but = []) =>
      names
        .filter((name) => wanted.has(name) && !but.includes(name))
        .map((name) => sql`s.${identifier(name)} AS ${identifier(name)}`),
  };
  switch (step.kind) {
    case 'fields':
      return inner;
    case 'rename':
      return select(
        [
          ...tools.passing([step.field]),
          ...(wanted.has(step.as) ? [named(sql`s.${identifier(step.field)}`, step.as)] : []),
        ],
        tools.inner,
      );
    case 'type':
      return typeSql(step, tools);
    case 'where':
      return select(tools.passing(), tools.inner, whereSql(filters[0], tools));
    case 'derive':
      return select(
        [...tools.passing([step.name]), named(makingSql(step.making, tools), step.name)],
        tools.inner,
      );
    case 'lookUp':
      return lookUpSql(step, tools);
    case 'unfold':
      return select(
        [
          ...tools.passing([step.field, step.as]),
          ...(wanted.has(step.as) ? [named(sql`u.item`, step.as)] : []),
          ...(step.place !== undefined && wanted.has(step.place) ? [named(sql`u.place`, step.place)] : []),
        ],
        sql`${tools.inner}${step.keepEmpty ? sql` LEFT JOIN ` : sql` JOIN `}${dialect.scalar.items(tools.field(step.field).value, sql`u`)} ON TRUE`,
      );
    case 'spread':
      return select(
        [
          ...tools.passing(),
          ...step.take
            .filter(({ name }) => wanted.has(name))
            .map(({ path, name, type }) =>
              named(memberSql(tools.field(step.field).value, path, type, tools), name),
            ),
        ],
        tools.inner,
      );
    case 'stack':
      return stackSql(step, inner, tools);
    case 'distinct':
      return distinctSql(step, tools);
    case 'fill':
      return fillSql(step, tools);
    case 'summarise':
      return summariseSql(step, tools);
    case 'rank':
      return rankSql(step, tools);
    case 'running':
      return runningSql(step, tools);
    case 'periods':
      return periodsSql(step, inner, tools);
    case 'wide':
      return wideSql(step, tools);
    case 'long':
      return longSql(step, tools);
  }
}

function whereSql(filter: Filter | undefined, { field, dialect }: Tools): Sql {
  return filter ? sql` WHERE ${filterSql(filter, field, dialect)}` : sql``;
}

function typeSql({ field, to, misfit }: StepOf<'type'>, tools: Tools): Sql {
  const { dialect, zone, wanted } = tools;
  const { value, field: of } = tools.field(field);
  const stops = (text: Sql): Sql =>
    dialect.scalar.fail(
      sql`${bind('text', `${stepStopped}“${field}” cannot be read as ${to}: `)} || ${text}`,
      to,
    );
  const read = convertSql(value, of.type, to, {
    dialect,
    zone,
    exactly: true,
    ...(misfit === 'stop' ? { misfit: stops } : {}),
  });
  const columns = [...tools.passing([field]), ...(wanted.has(field) ? [named(read, field)] : [])];
  const unread = unreadName(field);
  if (misfit === 'list' && wanted.has(unread))
    columns.push(
      named(
        sql`CASE WHEN ${read} IS NULL THEN ${of.type === 'text' ? value : dialect.scalar.text(value, of.type)} END`,
        unread,
      ),
    );
  return select(columns, tools.inner);
}

function makingSql(making: Making, tools: Tools): Sql {
  const { dialect, zone, now, before, field, filters } = tools;
  const { scalar } = dialect;
  const text = (name: string): Sql => {
    const { value, field: of } = field(name);
    return of.type === 'text' || of.type === 'nested' ? value : scalar.text(value, of.type);
  };
  switch (making.kind) {
    case 'expression': {
      const checked = checkExpression(making.text, before);
      if (!checked.ok) throw new RangeError(checked.why);
      return expressionSql(checked.expression, { fields: before, fieldSql: field, dialect, zone, now });
    }
    case 'join':
      return sql`nullif(concat_ws(${bind('text', making.between)}, ${join(making.fields.map(text), comma)}), '')`;
    case 'split':
      return sql`nullif(split_part(${text(making.field)}, ${bind('text', making.at)}, ${ordinal(making.part)}), '')`;
    case 'extract':
      return scalar.found(text(making.field), making.pattern);
    case 'between':
      return betweenSql(making, tools);
    case 'bands': {
      const { value, field: of } = field(making.field);
      const type: FieldType = of.type === 'float' ? 'float' : 'decimal';
      const when = making.bands.map(
        ({ below, word }) => sql` WHEN ${value} < ${bind(type, below)} THEN ${bind('text', word)}`,
      );
      return sql`(CASE WHEN ${value} IS NULL THEN NULL${join(when, sql``)} ELSE ${bind('text', making.rest)} END)`;
    }
    case 'bins': {
      const { value, field: of } = field(making.field);
      const size = bind('decimal', making.size);
      const number = of.type === 'integer' ? value : scalar.exact(value, of.type);
      const low = scalar.product(sql`floor(${dialect.quotient(number, size)})`, size);
      return of.type === 'integer' && /^\d+$/.test(making.size) ? scalar.fitted(low) : low;
    }
    case 'choose': {
      const when = making.when.map(
        ({ word }, at) =>
          sql` WHEN ${filterSql(filters[at] ?? { all: [] }, field, dialect)} THEN ${bind('text', word)}`,
      );
      return sql`(CASE${join(when, sql``)} ELSE ${bind('text', making.otherwise)} END)`;
    }
    case 'link':
      return linkSql(making.template, text, scalar.encoded);
    case 'period': {
      const { value, field: of } = field(making.field);
      return dialect.periodStart(value, of.type, making.unit, zone);
    }
    case 'shift': {
      const { value } = field(making.field);
      const moved = scalar.moved(value, 'instant', String(making.minutes), 'minute');
      const [filter] = filters;
      return filter
        ? sql`(CASE WHEN ${filterSql(filter, field, dialect)} THEN ${moved} ELSE ${value} END)`
        : moved;
    }
    case 'clock':
      return scalar.fromClock(field(making.field).value, making.zone);
  }
}

/** RFC 6570: a name without a value leaves nothing behind it. */
function linkSql(template: string, text: (name: string) => Sql, encoded: (value: Sql) => Sql): Sql {
  const pieces = (linkParts(template) ?? []).flatMap(
    ({ text: before, field: name, operator, first }): Sql[] => {
      const fixed = before === '' ? [] : [bind('text', before)];
      if (name === undefined) return fixed;
      const value = encoded(text(name));
      if (operator === '?' || operator === '&') {
        const lead = bind('text', `${operator === '?' && first ? '?' : '&'}${name}=`);
        return [...fixed, sql`coalesce(${lead} || ${value}, '')`];
      }
      return [...fixed, first ? sql`coalesce(${value}, '')` : sql`coalesce(',' || ${value}, '')`];
    },
  );
  return pieces.length === 0 ? sql`NULL` : sql`(${join(pieces, sql` || `)})`;
}

const unitSeconds = { second: 1, minute: 60, hour: 3600, day: 86_400 } as const;

function betweenSql(
  { from, to, unit }: Extract<Making, { kind: 'between' }>,
  { dialect, field, zone, now }: Tools,
): Sql {
  const { scalar } = dialect;
  const start = field(from);
  const moment = bind('instant', now);
  if (start.field.type === 'date') {
    const end = to === undefined ? dialect.periodStart(moment, 'instant', 'day', zone) : field(to).value;
    return scalar.days(end, start.value);
  }
  // Whole units that have passed; before their time they count down from minus one.
  return scalar.between(to === undefined ? moment : field(to).value, start.value, unitSeconds[unit]);
}

function memberSql(value: Sql, path: string, type: FieldType, { dialect, zone }: Tools): Sql {
  const tokens = path
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
  if (type === 'nested') return dialect.scalar.nested(value, tokens);
  const text = dialect.scalar.member(value, tokens);
  return convertSql(sql`nullif(${text}, '')`, 'text', type, { dialect, zone });
}

const orderSql = (order: readonly Order[], field: FieldSql, dialect: Dialect): Sql[] =>
  order.map(({ by, descending }) =>
    dialect.ordered(field(by).value, field(by).field.type, descending ?? false),
  );

/** An order without ties between different records: what was said, then every field by itself. */
function fullOrder(
  order: readonly Order[],
  before: readonly Field[],
  field: FieldSql,
  dialect: Dialect,
): Sql {
  const others = tied([], before)
    .filter((name) => !order.some(({ by }) => by === name))
    .map((name) => {
      const { value, field: of } = field(name);
      return of.type === 'text' || of.type === 'nested' ? dialect.scalar.byCode(value) : value;
    });
  const terms = [...orderSql(order, field, dialect), ...others.map((value) => sql`${value} NULLS LAST`)];
  return join(terms.length > 0 ? terms : [sql`1`], comma);
}

const partition = (within: readonly string[], field: FieldSql): Sql =>
  within.length === 0
    ? sql``
    : sql`PARTITION BY ${join(
        within.map((name) => field(name).value),
        comma,
      )} `;

function lookUpSql(step: StepOf<'lookUp'>, tools: Tools): Sql {
  const { dialect, others, wanted, zone } = tools;
  const [other] = others;
  if (!other) throw new RangeError('a look-up without its data set');
  const needed = new Set(neededOfOther(step, 0, wanted, other));
  const theirs = reader(sql`o`, other.fields);
  const from = sql`(${shapedSql(other, needed, dialect, zone)}) AS o`;
  const keys = step.on.map(({ other: name }) => theirs(name).value);
  const keyColumns = keys.map((value, at) => named(value, `key ${at}`));
  const filled = join(
    keys.map((value) => sql`${value} IS NOT NULL`),
    and,
  );
  const grouped = (columns: readonly Sql[]): Sql =>
    sql`${select([...keyColumns, ...columns], from, sql` WHERE ${filled}`)} GROUP BY ${join(
      keys.map((_, at) => ordinal(at + 1)),
      comma,
    )}`;
  const on = join(
    step.on.map(({ field }, at) => sql`l.${identifier(`key ${at}`)} = ${tools.field(field).value}`),
    and,
  );
  const joined = (looked: Sql, brought: readonly Sql[]): Sql =>
    select([...tools.passing(), ...brought], sql`${tools.inner} LEFT JOIN (${looked}) AS l ON ${on}`);
  const as = step.as ?? '';
  switch (step.mode) {
    case 'one': {
      const looked = grouped([
        named(sql`count(*)`, 'matches'),
        ...step.take.map(({ field, as: name }) =>
          named(dialect.scalar.only(theirs(field).value, theirs(field).field.type), `take ${name}`),
        ),
      ]);
      const key = tools.field(step.on[0]?.field ?? '');
      const keyText = key.field.type === 'text' ? key.value : dialect.scalar.text(key.value, key.field.type);
      return joined(
        looked,
        step.take
          .filter(({ as: name }) => wanted.has(name))
          .map(({ field, as: name }) => {
            const message = sql`${bind('text', `${stepStopped}one match was meant for “${step.on[0]?.field ?? ''}”, and there are several for `)} || ${keyText}`;
            const several = dialect.scalar.fail(message, theirs(field).field.type);
            return named(
              sql`CASE WHEN l.${identifier('matches')} > 1 THEN ${several} ELSE l.${identifier(`take ${name}`)} END`,
              name,
            );
          }),
      );
    }
    case 'first': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const numbered = select(
        [
          ...keyColumns,
          ...step.take.map(({ field, as: name }) => named(theirs(field).value, `take ${name}`)),
          named(sql`row_number() OVER (PARTITION BY ${join(keys, comma)} ORDER BY ${order})`, 'place'),
        ],
        from,
        sql` WHERE ${filled}`,
      );
      const looked = sql`SELECT * FROM (${numbered}) AS n WHERE n.${identifier('place')} = 1`;
      return joined(
        looked,
        step.take
          .filter(({ as: name }) => wanted.has(name))
          .map(({ as: name }) => named(sql`l.${identifier(`take ${name}`)}`, name)),
      );
    }
    case 'count':
      return joined(grouped([named(sql`count(*)`, 'found')]), [
        named(sql`coalesce(l.${identifier('found')}, 0)`, as),
      ]);
    case 'any':
      return joined(grouped([named(sql`count(*)`, 'found')]), [
        named(sql`(l.${identifier('found')} IS NOT NULL)`, as),
      ]);
    case 'aggregate': {
      const calculation = step.calculation ?? { kind: 'count' as const };
      const value = measureSql(
        { name: as, calculation: plannedCalculation(calculation, tools.filters[0]) },
        theirs,
        dialect,
      );
      const found = sql`l.${identifier('found')}`;
      const counts = calculation.kind === 'count' || calculation.kind === 'distinct';
      return joined(grouped([named(value, 'found')]), [
        named(counts ? sql`coalesce(${found}, 0)` : found, as),
      ]);
    }
    case 'all': {
      const order = fullOrder(step.order, other.fields, theirs, dialect);
      const members = step.take.map(({ field, as: name }) => ({
        name,
        value: theirs(field).value,
        type: theirs(field).field.type,
      }));
      return joined(grouped([named(dialect.scalar.objects(members, order), 'found')]), [
        named(sql`coalesce(l.${identifier('found')}, '[]')`, as),
      ]);
    }
  }
}

/** A calculation whose condition, where it has one, is resolved. */
const plannedCalculation = (calculation: Calculation, filter: Filter | undefined): PlannedCalculation =>
  calculation.kind === 'share' ? { kind: 'share', where: filter ?? { all: [] } } : calculation;

/** A value that will stand in one column with others: decimals get one shape first, lest an engine round them to another's. */
const united = (value: Sql, type: FieldType, { scalar }: Dialect): Sql =>
  type === 'decimal' ? scalar.exact(value, type) : value;

function stackSql(step: StepOf<'stack'>, inner: Sql, tools: Tools): Sql {
  const { dialect, others, wanted, zone, before } = tools;
  const all = new Map<string, FieldType>(before.map(({ name, type }) => [name, type]));
  for (const other of others)
    for (const { name, type } of other.fields) if (!all.has(name)) all.set(name, type);
  const shown = [...all].filter(([name]) => wanted.has(name));
  const origin = step.origin && wanted.has(step.origin.name) ? step.origin : null;
  const part = (from: Sql, fields: readonly Field[], word: string): Sql =>
    select(
      [
        ...shown.map(([name, type]) =>
          named(
            fields.some((field) => field.name === name)
              ? united(sql`s.${identifier(name)}`, type, dialect)
              : dialect.scalar.blank(type),
            name,
          ),
        ),
        ...(origin ? [named(bind('text', word), origin.name)] : []),
      ],
      sql`(${from}) AS s`,
    );
  const parts = [
    part(inner, before, step.origin?.word ?? ''),
    ...others.map((other, at) =>
      part(
        shapedSql(other, new Set(neededOfOther(step, at, wanted, other)), dialect, zone),
        other.fields,
        step.with[at]?.word ?? '',
      ),
    ),
  ];
  return join(parts, sql` UNION ALL `);
}

function distinctSql({ by, order }: StepOf<'distinct'>, tools: Tools): Sql {
  const { dialect, before, field } = tools;
  const names = by.length === 0 ? plainNames(before) : by;
  const numbered = select(
    [
      ...tools.passing(),
      named(
        sql`row_number() OVER (${partition(names, field)}ORDER BY ${fullOrder(order, before, field, dialect)})`,
        'its place',
      ),
    ],
    tools.inner,
  );
  return sql`${select(passed(tools), sql`(${numbered}) AS s`)} WHERE s.${identifier('its place')} = 1`;
}

/** The fields wanted after, out of a query around the records. */
const passed = ({ wanted }: Tools, but: readonly string[] = []): Sql[] =>
  [...wanted].filter((name) => !but.includes(name)).map((name) => named(sql`s.${identifier(name)}`, name));

function fillSql(step: StepOf<'fill'>, tools: Tools): Sql {
  const { dialect, before, field } = tools;
  const { value, field: of } = field(step.field);
  if (step.with.kind === 'value')
    return select(
      [
        ...tools.passing([step.field]),
        named(
          sql`coalesce(${united(value, of.type, dialect)}, ${united(bind(of.type, step.with.value), of.type, dialect)})`,
          step.field,
        ),
      ],
      tools.inner,
    );
  const { order, within } = step.with;
  const over = sql`${partition(within, field)}ORDER BY ${fullOrder(order, before, field, dialect)}`;
  // Records are grouped under the latest one with a value: the count of values so far stays the same until the next.
  const numbered = select(
    [
      ...tools.passing([step.field]),
      ...within.map((name, at) => named(field(name).value, `within ${at}`)),
      named(value, 'its value'),
      named(sql`count(${value}) OVER (${over} ROWS UNBOUNDED PRECEDING)`, 'its run'),
      named(sql`row_number() OVER (${over})`, 'its place'),
    ],
    tools.inner,
  );
  const groups = join(
    [...within.map((_, at) => sql`s.${identifier(`within ${at}`)}`), sql`s.${identifier('its run')}`],
    comma,
  );
  const filled = sql`first_value(s.${identifier('its value')}) OVER (PARTITION BY ${groups} ORDER BY s.${identifier('its place')})`;
  // Before the first value there is nothing to fill with.
  const shown = sql`CASE WHEN s.${identifier('its run')} > 0 THEN ${filled} END`;
  return select([...passed(tools, [step.field]), named(shown, step.field)], sql`(${numbered}) AS s`);
}

function summariseSql({ by, measures }: StepOf<'summarise'>, tools: Tools): Sql {
  const { dialect, field, filters, zone } = tools;
  let next = 0;
  const values = by.map(({ field: name, unit }) => {
    const { value, field: of } = field(name);
    return unit ? dialect.periodStart(value, of.type, unit, zone) : value;
  });
  const measured = measures.map(({ name, calculation, where }) => {
    const own = where ? filters[next++] : undefined;
    const met = calculation.kind === 'share' ? filters[next++] : undefined;
    const planned = {
      name,
      calculation: plannedCalculation(calculation, met),
      ...(own ? { where: own } : {}),
    };
    return named(measureSql(planned, field, dialect), name);
  });
  const groups =
    values.length === 0
      ? sql``
      : sql` GROUP BY ${join(
          values.map((_, at) => ordinal(at + 1)),
          comma,
        )}`;
  return select(
    [...values.map((value, at) => named(value, by[at]?.as ?? '')), ...measured],
    tools.inner,
    groups,
  );
}

function rankSql({ as, order, within, keep }: StepOf<'rank'>, tools: Tools): Sql {
  const { dialect, field } = tools;
  const over = sql`(${partition(within, field)}ORDER BY ${join(orderSql(order, field, dialect), comma)})`;
  const ranked = select([...tools.passing(), named(sql`rank() OVER ${over}`, as)], tools.inner);
  if (keep === undefined) return ranked;
  return sql`${select(passed(tools), sql`(${ranked}) AS s`)} WHERE s.${identifier(as)} <= ${bind('integer', String(keep))}`;
}

function runningSql(step: StepOf<'running'>, tools: Tools): Sql {
  const { dialect, before, field } = tools;
  const { value, field: of } = field(step.field);
  const own = partition(step.within, field);
  const ordered = sql`${own}ORDER BY ${fullOrder(step.order, before, field, dialect)}`;
  const isFloat = of.type === 'float';
  const out = (columns: readonly Sql[], made: Sql): Sql =>
    select(
      [...passed(tools, [step.as]), named(made, step.as)],
      sql`(${select([...tools.passing(), ...columns], tools.inner)}) AS s`,
    );
  const divided = (): Sql => {
    const [a, b] = [sql`s.${identifier('its sum')}`, sql`s.${identifier('its count')}`];
    return isFloat ? sql`(${a} / nullif(${b}, 0))` : dialect.quotient(a, b);
  };
  switch (step.what) {
    case 'total': {
      const total = sql`sum(${value}) OVER (${ordered} ROWS UNBOUNDED PRECEDING)`;
      return select(
        [...tools.passing(), named(of.type === 'integer' ? dialect.scalar.fitted(total) : total, step.as)],
        tools.inner,
      );
    }
    case 'difference':
      return select(
        [...tools.passing(), named(sql`(${value} - lag(${value}) OVER (${ordered}))`, step.as)],
        tools.inner,
      );
    case 'average': {
      const frame = sql`(${ordered} ROWS BETWEEN ${ordinal((step.over ?? 1) - 1)} PRECEDING AND CURRENT ROW)`;
      return out(
        [
          named(sql`sum(${value}) OVER ${frame}`, 'its sum'),
          named(sql`count(${value}) OVER ${frame}`, 'its count'),
        ],
        divided(),
      );
    }
    case 'share':
      return out([named(value, 'its sum'), named(sql`sum(${value}) OVER (${own})`, 'its count')], divided());
  }
}

function periodsSql(step: StepOf<'periods'>, inner: Sql, tools: Tools): Sql {
  const { dialect, before, wanted } = tools;
  const shown = before.filter(({ name }) => wanted.has(name));
  const at = reader(sql`s`, before);
  const within = step.within.map((name) => ({ name, value: at(name).value }));
  const groups =
    within.length === 0
      ? sql`(SELECT min(s.${identifier(step.field)}) AS least, max(s.${identifier(step.field)}) AS greatest FROM whole AS s) AS b`
      : sql`(SELECT DISTINCT ${join(
          within.map(({ value }, index) => named(value, `within ${index}`)),
          comma,
        )} FROM whole AS s) AS g CROSS JOIN (SELECT min(s.${identifier(step.field)}) AS least, max(s.${identifier(step.field)}) AS greatest FROM whole AS s) AS b`;
  const isThere = join(
    [
      sql`s.${identifier(step.field)} = p.period`,
      ...within.map(
        ({ value }, index) => sql`${value} IS NOT DISTINCT FROM g.${identifier(`within ${index}`)}`,
      ),
    ],
    and,
  );
  const own = shown.map(({ name, type }) => named(united(sql`s.${identifier(name)}`, type, dialect), name));
  const added = shown.map(({ name, type }) => {
    const index = step.within.indexOf(name);
    if (name === step.field) return named(sql`p.period`, name);
    if (index >= 0) return named(sql`g.${identifier(`within ${index}`)}`, name);
    return named(
      step.zero.includes(name) ? united(bind(type, '0'), type, dialect) : dialect.scalar.blank(type),
      name,
    );
  });
  const calendar = dialect.scalar.calendar(sql`b.least`, sql`b.greatest`, step.unit as Unit, sql`p`);
  return sql`SELECT * FROM (WITH whole AS (${inner}) ${select(own, sql`whole AS s`)} UNION ALL ${select(
    added,
    sql`${groups} CROSS JOIN ${calendar}`,
    sql` WHERE NOT EXISTS (SELECT 1 FROM whole AS s WHERE ${isThere})`,
  )}) AS s`;
}

function wideSql({ by, across, values, calculation }: StepOf<'wide'>, tools: Tools): Sql {
  const { dialect, field, filters, wanted } = tools;
  const keys = by.map((name) => field(name).value);
  const columns = values
    .filter(({ as }) => wanted.has(as))
    .map(({ value, as }) =>
      named(
        measureSql(
          {
            name: as,
            calculation: plannedCalculation(calculation, filters[0]),
            where: { field: across, test: { op: 'same', value } },
          },
          field,
          dialect,
        ),
        as,
      ),
    );
  const groups =
    keys.length === 0
      ? sql` HAVING count(*) > 0`
      : sql` GROUP BY ${join(
          keys.map((_, at) => ordinal(at + 1)),
          comma,
        )}`;
  return select([...keys.map((value, at) => named(value, by[at] ?? '')), ...columns], tools.inner, groups);
}

function longSql({ fields, name, value }: StepOf<'long'>, tools: Tools): Sql {
  const { wanted, before, inner, dialect } = tools;
  const parts = fields.map((each) =>
    select(
      [
        ...tools.passing([...fields, name, value]),
        ...(wanted.has(name)
          ? [
              named(
                bind('text', labelOf(before.find((field) => field.name === each) ?? { name: each })),
                name,
              ),
            ]
          : []),
        ...(wanted.has(value)
          ? [
              named(
                united(
                  sql`s.${identifier(each)}`,
                  before.find((field) => field.name === each)?.type ?? 'text',
                  dialect,
                ),
                value,
              ),
            ]
          : []),
      ],
      inner,
    ),
  );
  return join(parts, sql` UNION ALL `);
}
