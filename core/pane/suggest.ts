import type { DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/field/free-name.ts';
import { isNumeric, isTemporal } from '#core/field/value.ts';
import { capital } from '#core/words/capital.ts';
import type { Pane, Place } from './schema.ts';

/** The questions from which a pane starts. */
export const questions = [
  { ask: 'how many', words: 'How many?', leads: 'A number, against the period before' },
  { ask: 'split', words: 'How is it split?', leads: 'Bars by category' },
  { ask: 'change', words: 'How does it change?', leads: 'Columns over time' },
  { ask: 'which', words: 'Which records?', leads: 'A table' },
  { ask: 'what about', words: 'What about this one?', leads: 'One record in full' },
] as const;
export type Question = (typeof questions)[number]['ask'];

const sizes: Record<Question, { w: number; h: number }> = {
  'how many': { w: 3, h: 3 },
  split: { w: 5, h: 7 },
  change: { w: 7, h: 7 },
  which: { w: 8, h: 11 },
  'what about': { w: 4, h: 11 },
};

/** The first free place of a size, reading the sheet as one reads a page. */
export function freePlace(panes: readonly Pane[], { w, h }: { w: number; h: number }): Place {
  const overlaps = (x: number, y: number): boolean =>
    panes.some(
      ({ place }) => x < place.x + place.w && place.x < x + w && y < place.y + place.h && place.y < y + h,
    );
  const bottom = Math.max(0, ...panes.map(({ place }) => place.y + place.h));
  for (let y = 0; y < bottom; y += 1)
    for (let x = 0; x + w <= 12; x += 1) if (!overlaps(x, y)) return { x, y, w, h };
  return { x: 0, y: bottom, w, h };
}

/** A pane that answers a question about a data set as well as can be guessed from its fields. */
export function suggestPane(
  question: Question,
  dataSetId: string,
  dataSet: DataSet,
  panes: readonly Pane[],
): Pane {
  const taken = new Set(panes.map(({ id }) => id));
  const stem = question.replaceAll(' ', '-');
  const id = freeName(stem, (each) => taken.has(each), '-');
  const shared = { id, dataSet: dataSetId, place: freePlace(panes, sizes[question]) };
  const shown = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const measure = dataSet.measures[0]?.name ?? 'count';
  const time = shown.find(({ type }) => isTemporal(type));
  const isCategory = (field: (typeof shown)[number]): boolean =>
    field.type === 'text' &&
    field.name !== dataSet.title &&
    field.format?.kind !== 'id' &&
    field.format?.kind !== 'picture';
  const category = shown.find((field) => field.states) ?? shown.find(isCategory) ?? shown[0];
  const behind = shown
    .filter(({ format }) => format?.kind !== 'picture')
    .slice(0, 8)
    .map(({ name }) => name);
  const { many, one } = dataSet.noun;
  switch (question) {
    case 'how many':
      return {
        kind: 'card',
        ...shared,
        title: capital(many),
        measure,
        against: time ? 'sameTime' : 'none',
        behind,
      };
    case 'split':
      return {
        kind: 'chart',
        ...shared,
        title: `${capital(many)} by ${category?.label?.toLowerCase() ?? category?.name ?? ''}`,
        mark: 'bars',
        measure,
        by: { field: category?.name ?? '' },
        order: 'value',
        top: { count: 10, rest: true },
        behind,
      };
    case 'change':
      return time
        ? {
            kind: 'chart',
            ...shared,
            title: `${capital(many)}, week by week`,
            mark: 'columns',
            measure,
            by: { field: time.name, unit: 'week' },
            order: 'label',
            behind,
          }
        : suggestPane('split', dataSetId, dataSet, panes);
    case 'which':
      return {
        kind: 'table',
        ...shared,
        title: capital(many),
        columns: shown
          .filter(({ format }) => format?.kind !== 'picture')
          .slice(0, 7)
          .map(({ name }) => ({ field: name })),
        order: time ? [{ by: time.name, descending: true }] : [],
        pageSize: 10,
      };
    case 'what about':
      return {
        kind: 'detail',
        ...shared,
        title: `The ${one}`,
        fields: shown.slice(0, 16).map(({ name }) => name),
      };
  }
}

/** Fields by which a reader may narrow, with how: what a clause can be made of. */
export const clauseOffer = (type: DataSet['fields'][number]['type']): 'values' | 'number' | 'dates' =>
  isTemporal(type) ? 'dates' : isNumeric(type) ? 'number' : 'values';
