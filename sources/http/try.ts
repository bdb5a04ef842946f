import { findCandidates } from '#core/dataset/http/candidates.ts';
import { callProblem } from '#core/dataset/http/expand.ts';
import { findMembers, memberTexts } from '#core/dataset/http/members.ts';
import { recognisePaging } from '#core/dataset/http/paging.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Trial } from '../kind.ts';
import { typedSample } from '../typed-sample.ts';
import { recordsAt } from './answer.ts';
import { type HttpRequest, onePage, type PagesRequest, placeOf, type Service } from './pages.ts';

const shown = 50;

/** Throws a {@link ProblemError} for a call that cannot be made. */
export function requireCall(request: HttpRequest, doing: string): void {
  const wrong = callProblem(request.call);
  if (wrong) throw new ProblemError({ code: 'bad-request', doing, why: wrong, mend: 'Correct the request.' });
}

/**
 * One call, its answer laid out as records. With `find` the place of the records and the way of paging are found from the
 * answer; without it they are as the request says. The columns are always those of the answer.
 */
export async function tryHttp(
  service: Service,
  query: Pick<PagesRequest, 'request' | 'inputs' | 'signal'>,
  find: boolean,
): Promise<Trial> {
  const doing = 'trying the request';
  const started = performance.now();
  requireCall(query.request, doing);
  const first = await onePage(service, {
    ...query,
    request: find ? { ...query.request, records: '$' } : query.request,
    doing,
  });
  const { body } = first.read;
  const candidates = findCandidates(body);
  const [likely] = candidates;
  const path = placeOf(first.read, find ? (likely?.path ?? '$') : query.request.records);
  const records = recordsAt(body, path, doing);
  const objects = records.filter((each) => each !== null && typeof each === 'object' && !Array.isArray(each));
  // What is empty just now takes no columns away that there are.
  if (objects.length === 0)
    throw new ProblemError({
      code: 'bad-request',
      doing,
      why: noRecords(body, records),
      mend:
        candidates.length > 0
          ? 'Choose another place where the records are.'
          : 'Check the path and the query.',
    });
  const paging = find
    ? recognisePaging(query.request.call, {
        address: first.answer.address,
        header: first.answer.header,
        body,
        count: records.length,
      })
    : query.request.paging;
  const members = findMembers(objects);
  const columns = members.map(({ column }) => column);
  const looked = await typedSample(
    members.map(({ name }) => name),
    (writer) => writer.add(objects.map((record) => memberTexts(record, columns))),
    shown,
  );
  return {
    request: {
      ...query.request,
      records: path,
      paging,
      columns: looked.fields.map(({ name, type }, at): Column => ({ column: columns[at] ?? '', name, type })),
    },
    fields: looked.fields,
    records: looked.records,
    mixed: looked.mixed,
    took: performance.now() - started,
    more: looked.total > shown || paging.kind !== 'none',
    candidates,
  };
}

function noRecords(body: unknown, records: readonly unknown[]): string {
  if (body === null || typeof body !== 'object')
    return `the answer is a bare value (${JSON.stringify(body)?.slice(0, 60)}), not records`;
  if (Array.isArray(body) && body.length === 0) return 'the answer is an empty list';
  return records.length > 0
    ? 'there are values at that place, but they are not records'
    : 'there are no records at that place';
}
