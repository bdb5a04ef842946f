import { asCall } from '#core/change/calls.ts';
import type { Values } from '#core/change/change.ts';
import type { ChangeCall } from '#core/dataset/change/schema.ts';
import { callInputs, expandCall, type InputValues } from '#core/dataset/http/expand.ts';
import { memberText } from '#core/dataset/http/members.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangedByCalls, ChangedPlace, ChangeSource } from '../change.ts';
import { type LinesToAdd, makeEach, outcomesOfEach, type RecordService, Unclear } from '../change-each.ts';
import type { Answered, Outgoing } from '../outgoing/client.ts';
import { parseJson, recordsAt, requireGood } from './answer.ts';
import type { HttpConnection } from './connection.ts';
import type { Service } from './pages.ts';
import { testHttp } from './prove.ts';
import { asRead, jsonOf, requireTold, whetherSent } from './told.ts';

/* Changes of the records of an HTTP API, by the calls that the data set names. */

export const httpChanges = (service: Service, connection: HttpConnection, now: () => Date): ChangeSource => ({
  together: false,
  change: (changing) => makeEach(recordsOf(service, calledPlace(changing.place)), changing),
  outcomes: (noted) => outcomesOfEach(recordsOf(service, calledPlace(noted.place)), noted),
  test: async () => {
    const { facts } = await testHttp(connection, service.ask, '', now);
    return { facts };
  },
});

function calledPlace(place: ChangedPlace): ChangedByCalls {
  if (place.kind === 'calls') return place;
  throw new TypeError('records of this source are changed by calls');
}

const written = 'application/json;charset=utf-8';
const accept = 'application/json';

function recordsOf(
  { base, ask }: Service,
  { calls, columns, key: keyColumn }: ChangedByCalls,
): RecordService {
  const doing = 'changing a record';
  /** Records as they were when they were last read, for calls that say more of one than what is set. */
  const known = new Map<string, Values>();
  const inputsOf = (values: Values): InputValues =>
    Object.fromEntries(columns.map(({ name, type }) => [name, { type, value: values[name] ?? null }]));
  const ofKey = (key: string): Values => ({ ...known.get(key), [keyColumn.name]: key });
  const recordIn = (answer: Answered): unknown =>
    answer.text.trim() === ''
      ? null
      : (recordsAt(parseJson(answer.text, doing), calls.read.record, doing)[0] ?? null);

  const tell = async (
    call: ChangeCall | undefined,
    of: Values,
    set: ReadonlyMap<Column, string | null>,
    headers: Record<string, string>,
    lines: LinesToAdd | null = null,
  ): Promise<Answered> => {
    if (!call)
      throw new ProblemError({
        code: 'bad-request',
        doing,
        why: 'nothing says by which call the service is told',
        mend: 'An analyst can say it on the data set’s page Changes.',
      });
    const values = { ...of, ...Object.fromEntries([...set].map(([{ name }, value]) => [name, value])) };
    const { address } = expandCall(
      base,
      asCall({ path: call.path }),
      requiredInputs(call.path, inputsOf(values)),
    );
    const body =
      call.method === 'DELETE' && call.body === undefined ? null : bodyOf(call, values, set, lines);
    const asked: Outgoing = {
      address,
      method: call.method,
      doing,
      body,
      headers: { accept, ...(body === null ? {} : { 'content-type': written }), ...headers },
    };
    const answer = await ask(asked).catch((thrown) => {
      throw whetherSent(thrown);
    });
    requireTold(answer, doing);
    return answer;
  };

  /** The body that the call writes, or the members that are set with the lines among them. */
  const bodyOf = (
    call: ChangeCall,
    values: Values,
    set: ReadonlyMap<Column, string | null>,
    lines: LinesToAdd | null,
  ): string => {
    if (call.body !== undefined && call.body.trim() !== '') return filledBody(call.body, values, columns);
    const within: Member[] = lines
      ? [[[lines.member], `[${lines.sets.map((line) => nested(membersOf(line))).join(',')}]`]]
      : [];
    return nested([...membersOf(set), ...within]);
  };

  return {
    read: async (key, wanted) => {
      const reading = 'reading a record';
      const inputs = requiredInputs(calls.read.path, inputsOf(ofKey(key)));
      const { address } = expandCall(base, asCall({ path: calls.read.path }), inputs);
      const answer = await ask({ address, doing: reading, headers: { accept } });
      if (answer.status === 404 || answer.status === 410) return null;
      requireGood(answer, reading);
      const record = recordIn(answer);
      if (record === null) return null;
      const textOf = ({ column, type }: Column): string | null => asRead(type, memberText(record, column));
      known.set(key, Object.fromEntries(columns.map((column) => [column.name, textOf(column)])));
      return {
        values: Object.fromEntries(wanted.map((column) => [column.name, textOf(column)])),
        tag: answer.header('etag'),
      };
    },
    update: async (key, set, tag) => {
      await tell(calls.update, ofKey(key), set, tag === null ? {} : { 'if-match': tag });
    },
    insert: async (set, once, lines) => {
      const answer = await tell(calls.insert, {}, set, { 'idempotency-key': once }, lines);
      const found = memberText(recordIn(answer), keyColumn.column);
      if (found !== null) return { key: found };
      // A new record may only be told by where it is (RFC 9110, section 10.2.2).
      const at = answer.header('location')?.split(/[?#]/, 1)[0]?.split('/').at(-1);
      if (at) return { key: decodeURIComponent(at) };
      throw new Unclear({
        code: 'bad-request',
        doing,
        why: 'the service does not say what it added',
        mend: 'Look for the record before you try it again.',
      });
    },
    remove: async (key, tag) => {
      await tell(calls.remove, ofKey(key), new Map(), tag === null ? {} : { 'if-match': tag });
    },
  };
}

/** The values that a path is filled with: all that it names, since without one it would lead to another place. */
function requiredInputs(path: string, inputs: InputValues): InputValues {
  const missing = callInputs(asCall({ path })).find((name) => !inputs[name]?.value);
  if (missing === undefined) return inputs;
  throw new ProblemError({
    code: 'bad-request',
    doing: 'changing a record',
    why: `the path needs ${missing}, which is blank`,
    mend: 'Choose another field for the path.',
  });
}

type Member = readonly [readonly string[], string];

const membersOf = (set: ReadonlyMap<Column, string | null>): Member[] =>
  [...set].map(([{ column, type }, value]) => [column.split('/').slice(1), jsonOf(type, value)]);

/** Members by their paths, with values that are JSON already, as one object. */
function nested(members: readonly Member[]): string {
  const groups = new Map<string, Member[]>();
  for (const [[first = '', ...rest], json] of members)
    groups.set(first, [...(groups.get(first) ?? []), [rest, json]]);
  const parts = [...groups].map(([name, inside]) => {
    const [only] = inside;
    const value = only && only[0].length === 0 ? only[1] : nested(inside);
    return `${JSON.stringify(name.replaceAll('~1', '/').replaceAll('~0', '~'))}:${value}`;
  });
  return `{${parts.join(',')}}`;
}

/** A body with its `{field}` filled in, where one is all of a text; what is blank is null, since that is what it is to become. */
function filledBody(body: string, values: Values, columns: readonly Column[]): string {
  return body.replace(/"\{([A-Za-z_][A-Za-z0-9_]*)\}"/g, (whole, name: string) => {
    const column = columns.find((each) => each.name === name);
    return column ? jsonOf(column.type, values[name] ?? null) : whole;
  });
}
