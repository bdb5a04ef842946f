import { describe, expect, test } from 'vitest';
import { withInputRenamed } from './rename-input.ts';
import type { DataSet } from './schema.ts';
import { httpRequest } from './start.ts';

const dataSet = (request: DataSet['request']): DataSet => ({
  version: 2,
  source: '00000000-0000-4000-8000-000000000001',
  request,
  inputs: [
    { name: 'vessel', type: 'text', required: true },
    { name: 'vessels', type: 'text', required: false },
  ],
  fields: [{ name: 'name', type: 'text' }],
  noun: { one: 'order', many: 'orders' },
  measures: [],
  steps: [
    {
      kind: 'where',
      id: 's',
      condition: { none: [{ field: 'name', test: { op: 'against', is: 'same', to: { input: 'vessel' } } }] },
    },
  ],
});

describe('an input that is renamed', () => {
  test('has its new name in SQL, and nothing that only looks like it does', () => {
    const text =
      "SELECT ':vessel', a::vessel FROM t WHERE v = :vessel OR w = :vessels OR x = :vessel -- :vessel";
    const renamed = withInputRenamed(dataSet({ kind: 'sql', text, columns: [] }), 'vessel', 'ship');
    expect(renamed.request).toMatchObject({
      text: "SELECT ':vessel', a::vessel FROM t WHERE v = :ship OR w = :vessels OR x = :ship -- :vessel",
    });
    expect(renamed.inputs.map(({ name }) => name)).toEqual(['ship', 'vessels']);
    expect(JSON.stringify(renamed.steps)).toContain('"input":"ship"');
  });

  test('has it in every template of a call', () => {
    const call = httpRequest('orders/{vessel}{?vessels,vessel}', [{ name: 'v', value: '{vessel}' }]);
    const body = '{"a": "{vessel}", "b": {"c": "vessel"}}';
    const renamed = withInputRenamed(dataSet({ ...call, call: { ...call.call, body } }), 'vessel', 'ship');
    expect(renamed.request).toMatchObject({
      call: {
        path: 'orders/{ship}{?vessels,ship}',
        query: [{ name: 'v', value: '{ship}' }],
        body: '{"a": "{ship}", "b": {"c": "vessel"}}',
      },
    });
  });

  test('has it where a service is told by it where to go on from', () => {
    const keep = (tell: string) => ({
      mode: { kind: 'changed' as const, since: 'at', tell },
      schedule: { kind: 'by hand' as const },
    });
    const kept = { ...dataSet(httpRequest('orders{?vessel}')), keep: keep('vessel') };
    expect(withInputRenamed(kept, 'vessel', 'ship').keep).toEqual(keep('ship'));
    expect(withInputRenamed(kept, 'vessels', 'ships').keep).toEqual(keep('vessel'));
  });
});
