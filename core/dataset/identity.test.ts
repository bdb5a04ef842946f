import { expect, test } from 'vitest';
import { likelyKeys, namingField, proposedIdentity } from './identity.ts';

const texts = (...names: string[]) => names.map((name) => ({ name, type: 'text' as const }));
const measured = (unique: string[], blank: string[] = []) => ({
  isUnique: (name: string) => unique.includes(name),
  isBlank: (name: string) => blank.includes(name),
});

test('what identifies a record is named after it, or plainly an identifier, in whichever way it is written', () => {
  expect(likelyKeys(texts('gateId', 'callNo', 'id', 'note'), 'call')).toEqual(['callNo', 'id', 'gateId']);
  expect(likelyKeys(texts('crew', 'crew no', 'mark'), 'crew')).toEqual(['crew no', 'crew']);
  expect(likelyKeys([{ name: 'id', type: 'float' }], 'call')).toEqual([]);
});

test('identity is proposed only where it was measured, and a name never where it is always blank', () => {
  const fields = texts('callNo', 'id', 'vessel_name', 'title');
  expect(proposedIdentity(fields, 'call', measured(['callNo', 'id']))).toEqual({
    key: 'callNo',
    title: 'title',
  });
  expect(proposedIdentity(fields, 'call', measured(['id'], ['title']))).toEqual({
    key: 'id',
    title: 'vessel_name',
  });
  expect(proposedIdentity(texts('note', 'cause'), 'call', measured(['note']))).toEqual({});
  expect(namingField(texts('note'))).toBeUndefined();
});
