import { lazy, Suspense, useState } from 'react';
import type { HttpCall, Paging } from '#core/dataset/http/schema.ts';
import { answerFormats } from '#core/dataset/http/schema.ts';
import type { Request } from '#core/dataset/schema.ts';
import { formatNumber } from '#core/value/format/format.ts';
import type { Trial } from '#sources/kind.ts';
import { Button } from '../../../ui/button.tsx';
import { choicesOf, plainChoices } from '../../../ui/choice.tsx';
import { TextAreaField, TextField } from '../../../ui/field.tsx';
import { Section } from '../../../ui/page.tsx';
import { SelectField } from '../../../ui/select-field.tsx';

const OperationList = lazy(() =>
  import('./operation-list.tsx').then((module) => ({ default: module.OperationList })),
);

type HttpRequest = Extract<Request, { kind: 'http' }>;

const formatWords: Record<(typeof answerFormats)[number], string> = {
  auto: 'found from the answer',
  json: 'JSON',
  ndjson: 'lines of JSON',
  csv: 'CSV',
};

/** What a service is asked: method, path, query, headers and body, with inputs as {name}. */
export function HttpCallForm({
  request,
  onChange,
}: {
  request: HttpRequest;
  onChange: (request: HttpRequest) => void;
}) {
  const { call } = request;
  const [describing, setDescribing] = useState(false);
  const put = (change: Partial<HttpCall>): void => onChange({ ...request, call: { ...call, ...change } });
  return (
    <Section
      title="What the service is asked"
      note="Inputs are written {name}; one without a value leaves its part of the query out."
      action={
        <Button look="quiet" onClick={() => setDescribing(!describing)} aria-expanded={describing}>
          {describing ? 'Close' : 'From an OpenAPI document'}
        </Button>
      }
    >
      {describing && (
        <Suspense fallback={<div className="h-24 bg-well" />}>
          <OperationList
            onChoose={(chosen) => {
              setDescribing(false);
              onChange({ ...request, call: chosen, records: '$', paging: { kind: 'none' }, columns: [] });
            }}
          />
        </Suspense>
      )}
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-[7rem_1fr_14rem] gap-3">
          <SelectField
            label="Method"
            value={call.method}
            onChange={(chosen) => put({ method: chosen })}
            choices={plainChoices(['GET', 'POST'])}
          />
          <TextField
            label="Path"
            className="font-mono"
            value={call.path}
            maxLength={4000}
            onChange={({ target }) => put({ path: target.value })}
          />
          <SelectField
            label="The answer is"
            value={request.format}
            onChange={(chosen) => onChange({ ...request, format: chosen })}
            choices={answerFormats.map((format) => ({ value: format, words: formatWords[format] }))}
          />
        </div>
        <NamedList name="Query" one="a query entry" list={call.query} onChange={(query) => put({ query })} />
        <NamedList
          name="Headers"
          one="a header"
          list={call.headers}
          onChange={(headers) => put({ headers })}
        />
        {call.method === 'POST' && (
          <TextAreaField
            label="Body"
            hint='JSON; a text in it that is only "{name}" stands for that input.'
            className="h-32 font-mono"
            value={call.body ?? ''}
            onChange={({ target }) => put({ body: target.value })}
          />
        )}
      </div>
    </Section>
  );
}

function NamedList({
  name,
  one,
  list,
  onChange,
}: {
  name: string;
  one: string;
  list: HttpCall['query'];
  onChange: (list: HttpCall['query']) => void;
}) {
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="mb-1 text-small font-strong text-slate">{name}</legend>
      {list.map((entry, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: entries have no key and keep their place
        <div key={index} className="grid grid-cols-[12rem_1fr_auto] items-center gap-2">
          {(['name', 'value'] as const).map((part) => (
            <input
              key={part}
              aria-label={`${name} ${part} ${index + 1}`}
              value={entry[part]}
              onChange={({ target }) =>
                onChange(list.map((each, at) => (at === index ? { ...each, [part]: target.value } : each)))
              }
              className="rounded-[4px] border border-line bg-sheet px-2 py-1 font-mono text-small"
            />
          ))}
          <Button look="quiet" onClick={() => onChange(list.filter((_, at) => at !== index))}>
            Remove
          </Button>
        </div>
      ))}
      <div>
        <Button look="quiet" className="-ml-3" onClick={() => onChange([...list, { name: '', value: '' }])}>
          Add {one}
        </Button>
      </div>
    </fieldset>
  );
}

const pagingWords: Record<Paging['kind'], string> = {
  none: 'there is only one page',
  first: 'only the first page, though there are more',
  page: 'by the number of the page',
  offset: 'by how many to pass over',
  cursor: 'by a cursor in the answer',
  link: 'by the Link header',
  next: 'by the next address in the answer',
};

function emptyPaging(kind: string): Paging {
  switch (kind) {
    case 'page':
      return { kind, parameter: 'page', from: 1 };
    case 'offset':
      return { kind, parameter: 'offset', size: { parameter: 'limit', count: 100 } };
    case 'cursor':
      return { kind, at: '$.next', parameter: 'cursor' };
    case 'next':
      return { kind, at: '$.next' };
    case 'link':
    case 'first':
      return { kind };
    default:
      return { kind: 'none' };
  }
}

/** Where in the answer the records are, and how the rest of them is asked for: found from a tried answer, and corrected here. */
export function HttpAnswerForm({
  request,
  tried,
  onChange,
}: {
  request: HttpRequest;
  tried: Trial | null;
  onChange: (request: HttpRequest, again: boolean) => void;
}) {
  const { paging } = request;
  const candidates = tried?.candidates ?? [];
  const isKnown = candidates.some(({ path }) => path === request.records);
  const put = (next: Paging): void => onChange({ ...request, paging: next }, false);
  return (
    <Section title="Where are the records?" note="Found from the answer; correct what is wrong.">
      <div className="flex flex-col gap-3">
        <SelectField
          label="The records are"
          value={request.records}
          onChange={(chosen) => onChange({ ...request, records: chosen }, true)}
          choices={[
            ...(!isKnown ? [{ value: request.records, words: `at ${request.records}` }] : []),
            ...candidates.map(({ path, count, members }) => ({
              value: path,
              words: `${path === '$' ? 'the answer itself' : path} · ${formatNumber(String(count))} · ${members.slice(0, 4).join(', ')}`,
            })),
          ]}
        />
        <div className="grid grid-cols-2 gap-3">
          <SelectField
            label="The rest is asked for"
            value={paging.kind}
            onChange={(kind) => put(emptyPaging(kind))}
            choices={choicesOf(pagingWords)}
          />
          {(paging.kind === 'cursor' || paging.kind === 'next') && (
            <TextField
              label="Which stands at"
              className="font-mono"
              value={paging.at}
              onChange={({ target }) => put({ ...paging, at: target.value })}
            />
          )}
          {'parameter' in paging && (
            <TextField
              label="Sent as"
              hint={
                paging.kind === 'cursor'
                  ? 'A query parameter, or a place in the body such as /variables/after'
                  : undefined
              }
              className="font-mono"
              value={paging.parameter}
              onChange={({ target }) => put({ ...paging, parameter: target.value })}
            />
          )}
          {paging.kind === 'page' && (
            <SelectField
              label="The first page is"
              value={String(paging.from)}
              onChange={(chosen) => put({ ...paging, from: Number(chosen) })}
              choices={plainChoices(['1', '0'])}
            />
          )}
          {(paging.kind === 'page' || paging.kind === 'offset') && paging.size && (
            <>
              <TextField
                label="Size of a page, sent as"
                className="font-mono"
                value={paging.size.parameter}
                onChange={({ target }) =>
                  paging.size && put({ ...paging, size: { ...paging.size, parameter: target.value } })
                }
              />
              <TextField
                label="Records in a page"
                type="number"
                min={1}
                value={paging.size.count}
                onChange={({ target }) => {
                  const count = Math.trunc(target.valueAsNumber);
                  if (paging.size && count >= 1) put({ ...paging, size: { ...paging.size, count } });
                }}
              />
            </>
          )}
        </div>
      </div>
    </Section>
  );
}
