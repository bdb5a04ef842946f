import { stringify } from 'lossless-json';
import type { Values } from '#core/change/change.ts';
import { memberText } from '#core/dataset/http/members.ts';
import type { Column } from '#core/dataset/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { parseValue } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangedPlace, ChangeSource } from '../change.ts';
import { makeEach, outcomesOfEach, type ReadRecord, type RecordService, Unclear } from '../change-each.ts';
import { parseJson, requireGood } from '../http/answer.ts';
import { requireTold } from '../http/told.ts';
import type { Answered, Outgoing } from '../outgoing/client.ts';
import { recordAddress, setAddressToAdd } from './address.ts';
import type { ODataConnection } from './connection.ts';
import { accept, type Service, testOData } from './read.ts';

/* Changes of the records of an OData service (Protocol 4.01, section 11.4): one record at a time, held against its ETag. */

export const odataChanges = (
  service: Service,
  connection: ODataConnection,
  now: () => Date,
): ChangeSource => ({
  together: false,
  change: (changing) => makeEach(recordsOf(service, changing), changing),
  outcomes: (noted) => outcomesOfEach(recordsOf(service, noted.place), noted),
  test: async () => {
    const { facts } = await testOData(connection, service.ask, now);
    return { facts: facts.filter(({ name }) => name === 'Credential') };
  },
});

const written = 'application/json;charset=utf-8';

function recordsOf({ base, ask }: Service, place: ChangedPlace): RecordService {
  const doing = `changing ${place.table}`;
  const addressOf = (key: string): string => recordAddress(base, place, key);
  const tell = async (asked: Omit<Outgoing, 'doing'>): Promise<Answered> => {
    const answer = await ask({ ...asked, doing, headers: { accept, ...asked.headers } }).catch((thrown) => {
      throw whetherSent(thrown);
    });
    requireTold(answer, doing);
    return answer;
  };
  return {
    read: async (key, columns) => {
      const answer = await ask({
        address: recordAddress(base, place, key, [place.key, ...columns]),
        doing: `reading ${place.table}`,
        headers: { accept },
      });
      if (answer.status === 404 || answer.status === 410) return null;
      requireGood(answer, `reading ${place.table}`);
      return recordOf(answer, columns, doing);
    },
    update: async (key, set, tag) => {
      await tell({
        address: addressOf(key),
        method: 'PATCH',
        // Without it, a service would add a record that has gone.
        headers: { 'content-type': written, 'if-match': tag ?? '*' },
        body: bodyOf(set),
      });
    },
    insert: async (set, once) => {
      const answer = await tell({
        address: setAddressToAdd(base, place),
        method: 'POST',
        headers: {
          'content-type': written,
          prefer: 'return=representation',
          'repeatability-request-id': once,
        },
        body: bodyOf(set),
      });
      const body = answer.text.trim() === '' ? null : parseJson(answer.text, doing);
      return memberText(body, `/${place.key.column}`);
    },
    remove: async (key, tag) => {
      await tell({ address: addressOf(key), method: 'DELETE', headers: { 'if-match': tag ?? '*' } });
    },
  };
}

/** A call that failed before anything was sent was not done; of any other, nobody knows. */
function whetherSent(thrown: unknown): unknown {
  if (!(thrown instanceof ProblemError)) return thrown;
  const { code } = thrown.problem;
  return code === 'unreachable' || code === 'time-out' ? new Unclear(thrown.problem) : thrown;
}

function recordOf(answer: Answered, columns: readonly Column[], doing: string): ReadRecord {
  const body = parseJson(answer.text, doing);
  const values: Values = Object.fromEntries(
    columns.map(({ name, column, type }) => [name, asRead(type, memberText(body, `/${column}`))]),
  );
  return { values, tag: memberText(body, '/@odata.etag') ?? answer.header('etag') };
}

/** A value in canonical text, as it is where records are shown. */
function asRead(type: FieldType, text: string | null): string | null {
  if (text === null || (type === 'text' && text === '')) return null;
  const read = parseValue(type, text);
  return read.ok ? read.value : text;
}

/** Members with their values as JSON; a number with every digit. */
function bodyOf(set: ReadonlyMap<Column, string | null>): string {
  const members = [...set].map(
    ([{ column, type }, text]) => `${JSON.stringify(column)}:${jsonOf(type, text)}`,
  );
  return `{${members.join(',')}}`;
}

function jsonOf(type: FieldType, text: string | null): string {
  if (text === null) return 'null';
  switch (type) {
    case 'integer':
    case 'decimal':
    case 'float':
      return /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text)
        ? text.replace(/^(-?)0+(?=\d)/, '$1')
        : JSON.stringify(text);
    case 'boolean':
      return text;
    case 'nested':
      return stringify(parseJson(text, 'writing a value')) ?? 'null';
    default:
      return JSON.stringify(text);
  }
}
