import { describe, expect, test } from 'vitest';
import { ask } from '#core/dashboard/flow/ask.ts';
import { context, ids } from '#testing/skerry.ts';
import { note } from './kind.ts';
import { plainName } from './names.ts';
import { Note, type NotePane } from './schema.ts';
import { renamed, textNow } from './text.ts';

const pane: NotePane = {
  kind: 'note',
  id: 'note',
  title: 'Note',
  text: '{all}, most because of {top}',
  values: [
    { name: 'all', dataSet: ids.sailings, measure: 'count', behind: ['route'] },
    {
      name: 'top',
      dataSet: ids.sailings,
      measure: 'count',
      most: 'cause',
      keeping: { field: 'delay', test: { op: 'above', value: '10' } },
    },
  ],
  place: { x: 0, y: 0, w: 6, h: 4 },
};
const question = () => {
  const query = ask(pane, context);
  if (query.state !== 'asking') throw new Error('waits');
  return query;
};

describe('a note', () => {
  test('asks for each value with its own records, and has each where its name stands', () => {
    const body = question().shape({ records: { 0: [['12']], 1: [['fog', '5']] }, counts: {} });
    expect(body).toMatchObject({
      kind: 'note',
      values: [
        { name: 'all', value: '12' },
        { name: 'top', value: 'fog', field: { name: 'cause' } },
      ],
    });
  });

  test('without any such record has a blank, and no value of another', () => {
    const body = question().shape({ records: { 0: [['0']], 1: [] }, counts: {} });
    expect(body).toMatchObject({ values: [{ value: '0' }, { value: null }] });
  });

  test('opens each number as the records of its own', () => {
    expect(question().number?.({ values: [], measure: 0 })).toMatchObject({ use: 0, plan: { by: [] } });
    expect(question().number?.({ values: ['fog'], measure: 1 })).toMatchObject({ use: 1, words: 'fog' });
    expect(question().number?.({ values: [], measure: 7 })).toBeNull();
  });

  test('tells readers nothing of how its records are kept', () => {
    expect(JSON.stringify(note.forReaders(pane))).not.toMatch(/keeping|behind|"delay"/);
  });

  test('takes no two values of one name, and none whose name would be markup', () => {
    const [first] = pane.values;
    expect(Note.safeParse({ ...pane, values: [first, first] }).success).toBe(false);
    for (const name of ['*all*', '{all}', '', '<b>'])
      expect(Note.safeParse({ ...pane, values: [{ ...first, name }] }).success).toBe(false);
    expect(plainName('*Late* {sailings} (%)', 'number')).toBe('Late sailings');
    expect(plainName('%', 'number')).toBe('number');
  });

  test('says something else while a value in its text is blank', () => {
    const saying = { text: '{all}, most because of {top}', otherwise: '{all} of them' };
    const now = (top: string | null, { text, otherwise }: { text: string; otherwise?: string } = saying) =>
      textNow({ text, otherwise }, [
        { name: 'all', value: '0' },
        { name: 'top', value: top },
      ]);
    expect(now('fog')).toBe(saying.text);
    expect(now(null)).toBe(saying.otherwise);
    // What is blank but does not stand in the text changes nothing; nor is there anything to say in place of it.
    expect(now(null, { ...saying, text: '{all}' })).toBe('{all}');
    expect(now(null, { ...saying, otherwise: '' })).toBe(saying.text);
    expect(now(null, { text: saying.text })).toBe(saying.text);
  });

  test('renames a value wherever it stands', () => {
    expect(renamed('{all} of {all}, {alls}', 'all', 'every')).toBe('{every} of {every}, {alls}');
  });
});
