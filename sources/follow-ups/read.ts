import type { FollowUpPart } from '#core/change/follow-up-data.ts';
import type { Request } from '#core/dataset/schema.ts';
import { type FetchInto, only, TooManyRecords, type Trial } from '../kind.ts';
import { typedSample } from '../typed-sample.ts';

type FollowUpsRequest = Extract<Request, { kind: 'follow-ups' }>;

/** What is known of a record that people noted something of, each part as text. */
export type FollowedUp = Readonly<Record<FollowUpPart, string | null>>;

/** The records of a data set that somebody noted something of, this many at most. Throws a `ProblemError` where there is no such data set. */
export type FollowedUpRecords = (dataSet: string, most: number) => Promise<readonly FollowedUp[]>;

/** As many as are ever read at once. */
const mostRecords = 1_000_000;

const textsOf = (found: readonly FollowedUp[], columns: readonly { readonly column: string }[]) =>
  found.map((record) => columns.map(({ column }) => record[column as FollowUpPart] ?? null));

/** The first of them, typed as the request says. */
export async function tryFollowUps(
  followedUp: FollowedUpRecords,
  request: FollowUpsRequest,
  limit = 50,
): Promise<Trial> {
  const started = performance.now();
  const found = await followedUp(request.dataSet, limit + 1);
  const fields = request.columns.map(({ name, type }) => ({ name, type }));
  const { records } = await typedSample(
    fields.map(({ name }) => name),
    (writer) => writer.add(textsOf(found.slice(0, limit), request.columns)),
    limit,
    fields,
  );
  return { request, fields, records, took: performance.now() - started, more: found.length > limit };
}

/** Fetches all of them, only the fields wanted. */
export const fetchFollowUps =
  (followedUp: FollowedUpRecords): FetchInto =>
  async (writer, { request, fields, doing, most, progress }) => {
    const { dataSet, columns } = only(request, 'follow-ups');
    const found = await followedUp(dataSet, (most ?? mostRecords) + 1);
    if (most !== undefined && found.length > most) throw new TooManyRecords(doing, most);
    const wanted = fields.flatMap(({ name }) => columns.find((column) => column.name === name) ?? []);
    await writer.add(textsOf(found, wanted));
    await progress(found.length);
    return { records: found.length };
  };
