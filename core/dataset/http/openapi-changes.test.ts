import { describe, expect, test } from 'vitest';
import { type ChangedRecords, describedCalls } from './openapi-changes.ts';

const passages: ChangedRecords = {
  path: 'passages',
  key: 'passage_ref',
  columns: ['passage_ref', 'sailing', 'state'].map((name) => ({ column: `/${name}`, name })),
};
const document = (item: object, one: object, more: object = {}): string =>
  JSON.stringify({
    openapi: '3.1.0',
    paths: { '/v2/passages': item, '/v2/passages/{ref}': one, '/v2/sailings/{id}': { delete: {} } },
    ...more,
  });
const json = (schema: object) => ({ content: { 'application/json': { schema } } });

describe('the calls by which records are changed', () => {
  test('are those of the path that the records are asked for at, and of one of them', () => {
    expect(
      describedCalls(document({ get: {}, post: {} }, { get: {}, patch: {}, delete: {} }), passages),
    ).toEqual({
      ok: true,
      calls: {
        read: { path: 'passages/{passage_ref}', record: '$' },
        update: { method: 'PATCH', path: 'passages/{passage_ref}' },
        insert: { method: 'POST', path: 'passages' },
        remove: { method: 'DELETE', path: 'passages/{passage_ref}' },
      },
    });
  });

  test('hold the whole record where they replace it, and stand within the member that the service wants', () => {
    const schemas = {
      Passage: {
        properties: {
          passage_ref: { type: 'string' },
          sailing: { type: 'string' },
          berth: { type: 'string' },
        },
      },
      Wrapped: { allOf: [{ properties: { passage: { $ref: '#/components/schemas/Passage' } } }] },
    };
    const wrapped = json({ $ref: '#/components/schemas/Wrapped' });
    const text = document(
      { post: { requestBody: wrapped } },
      {
        get: { responses: { 200: wrapped } },
        put: { requestBody: json({ $ref: '#/components/schemas/Passage' }) },
      },
      { components: { schemas } },
    );
    const read = describedCalls(text, passages);
    expect(read.ok && read.calls).toEqual({
      read: { path: 'passages/{passage_ref}', record: "$['passage']" },
      update: {
        method: 'PUT',
        path: 'passages/{passage_ref}',
        body: '{"passage_ref":"{passage_ref}","sailing":"{sailing}"}',
      },
      insert: {
        method: 'POST',
        path: 'passages',
        body: '{"passage":{"passage_ref":"{passage_ref}","sailing":"{sailing}"}}',
      },
    });
  });

  test('are told to be missing where the document says none of these records, and what goes round in it ends', () => {
    const other = describedCalls(document({ get: {} }, { get: {} }), passages);
    expect(other).toEqual({ ok: false, why: 'It describes no call that changes what stands at “passages”.' });
    expect(describedCalls('[]', passages)).toMatchObject({ ok: false });
    const round = { $ref: '#/components/schemas/Round' };
    const text = document(
      { post: { requestBody: json(round) } },
      {},
      { components: { schemas: { Round: { ...round, properties: { next: round } } } } },
    );
    expect(describedCalls(text, passages)).toMatchObject({ ok: true, calls: { insert: { method: 'POST' } } });
  });
});
