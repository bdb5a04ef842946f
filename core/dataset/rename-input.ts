import { findInputs } from './inputs.ts';
import type { DataSet } from './schema.ts';

/** Text with the names of one expression of an RFC 6570 template renamed, in every expression. */
const inTemplate = (text: string, from: string, to: string): string =>
  text.replace(/\{([+#./;?&]?)([^{}]+)\}/g, (_, operator: string, list: string) => {
    const names = list.split(',').map((name) => {
      const [, bare = '', rest = ''] = /^\s*([A-Za-z0-9_]+)(.*)$/.exec(name) ?? [];
      return bare === from ? `${to}${rest}` : name;
    });
    return `{${operator}${names.join(',')}}`;
  });

/** Plain data in which whatever is compared with one input is compared with another. */
function inConditions<T>(value: T, from: string, to: string): T {
  if (Array.isArray(value)) return value.map((each) => inConditions(each, from, to)) as T;
  if (value === null || typeof value !== 'object') return value;
  const entries = Object.entries(value).map(([key, part]) =>
    key === 'to' && part !== null && typeof part === 'object' && 'input' in part && part.input === from
      ? [key, { input: to }]
      : [key, inConditions(part, from, to)],
  );
  return Object.fromEntries(entries) as T;
}

/** How records are kept, with the input by which a service is told where to go on from renamed. */
function keepRenamed({ keep }: DataSet, from: string, to: string): Pick<DataSet, 'keep'> {
  if (keep?.mode.kind !== 'changed' || keep.mode.tell !== from) return {};
  return { keep: { ...keep, mode: { ...keep.mode, tell: to } } };
}

/** A data set whose input has another name wherever it is used: SQL text, templates, conditions of steps, keeping. */
export function withInputRenamed(dataSet: DataSet, from: string, to: string): DataSet {
  const { request } = dataSet;
  const next = (): DataSet['request'] => {
    if (request.kind === 'sql') {
      // From the end, so that what is found stays where it was found.
      const text = findInputs(request.text)
        .filter(({ name }) => name === from)
        .reverse()
        .reduce((now, place) => `${now.slice(0, place.from)}:${to}${now.slice(place.to)}`, request.text);
      return { ...request, text };
    }
    if (request.kind !== 'http') return request;
    const { path, query, headers, body } = request.call;
    const each = (list: typeof query): typeof query =>
      list.map((pair) => ({ ...pair, value: inTemplate(pair.value, from, to) }));
    return {
      ...request,
      call: {
        ...request.call,
        path: inTemplate(path, from, to),
        query: each(query),
        headers: each(headers),
        ...(body === undefined ? {} : { body: inTemplate(body, from, to) }),
      },
    };
  };
  return {
    ...inConditions(dataSet, from, to),
    ...keepRenamed(dataSet, from, to),
    request: next(),
    inputs: dataSet.inputs.map((input) => (input.name === from ? { ...input, name: to } : input)),
  };
}
