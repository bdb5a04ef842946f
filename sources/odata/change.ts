import type { Values } from '#core/change/change.ts';
import { memberText } from '#core/dataset/http/members.ts';
import type { Column } from '#core/dataset/schema.ts';
import { type ChangedTable, type ChangeSource, tableOf } from '../change.ts';
import {
  type LinesToAdd,
  makeEach,
  outcomesOfEach,
  type ReadRecord,
  type RecordService,
} from '../change-each.ts';
import { parseJson, requireGood } from '../http/answer.ts';
import { asRead, jsonOf, requireTold, whetherSent } from '../http/told.ts';
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
  change: (changing) => makeEach(recordsOf(service, tableOf(changing.place)), changing),
  outcomes: (noted) => outcomesOfEach(recordsOf(service, tableOf(noted.place)), noted),
  test: async () => {
    const { facts } = await testOData(connection, service.ask, now);
    return { facts: facts.filter(({ name }) => name === 'Credential') };
  },
});

const written = 'application/json;charset=utf-8';

function recordsOf({ base, ask }: Service, place: ChangedTable): RecordService {
  const doing = `changing ${place.table}`;
  const addressOf = (key: string): string => recordAddress(base, place, key);
  const tell = async (call: Omit<Outgoing, 'doing'>): Promise<Answered> => {
    const answer = await ask({ ...call, doing, headers: { accept, ...call.headers } }).catch((thrown) => {
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
    insert: async (set, once, lines) => {
      const answer = await tell({
        address: setAddressToAdd(base, place),
        method: 'POST',
        headers: {
          'content-type': written,
          prefer: 'return=representation',
          'repeatability-request-id': once,
        },
        body: bodyOf(set, lines),
      });
      const body = answer.text.trim() === '' ? null : parseJson(answer.text, doing);
      return {
        key: memberText(body, `/${place.key.column}`),
        lineKeys: lines ? keysOfLines(body, lines) : [],
      };
    },
    remove: async (key, tag) => {
      await tell({ address: addressOf(key), method: 'DELETE', headers: { 'if-match': tag ?? '*' } });
    },
  };
}

function recordOf(answer: Answered, columns: readonly Column[], doing: string): ReadRecord {
  const body = parseJson(answer.text, doing);
  const values: Values = Object.fromEntries(
    columns.map(({ name, column, type }) => [name, asRead(type, memberText(body, `/${column}`))]),
  );
  return { values, tag: memberText(body, '/@odata.etag') ?? answer.header('etag') };
}

/** Members with their values as JSON, a number with every digit; and the lines that are added within it (section 11.4.2.2). */
function bodyOf(set: ReadonlyMap<Column, string | null>, lines: LinesToAdd | null = null): string {
  const members = [...set].map(
    ([{ column, type }, text]) => `${JSON.stringify(column)}:${jsonOf(type, text)}`,
  );
  const within = lines
    ? [`${JSON.stringify(lines.member)}:[${lines.sets.map((line) => bodyOf(line)).join(',')}]`]
    : [];
  return `{${[...members, ...within].join(',')}}`;
}

/** The keys of lines, where the answer has as many of them as were sent: a service answers with all that it was given. */
function keysOfLines(body: unknown, { member, key, sets }: LinesToAdd): string[] {
  const told: unknown = (body as Readonly<Record<string, unknown>> | null)?.[member];
  if (!Array.isArray(told) || told.length !== sets.length) return [];
  return told.flatMap((line) => memberText(line, `/${key.column}`) ?? []);
}
