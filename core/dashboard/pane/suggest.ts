import type { DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import type { OfferedData, Question } from './kind.ts';
import { kinds } from './kinds.ts';
import type { Pane } from './schema.ts';
import type { Place } from './shared.ts';
import { suggestionContext } from './suggestion-context.ts';

/** The questions from which a pane starts, those of every kind. */
export const questions: readonly Question[] = Object.values(kinds).flatMap((kind) => [...kind.questions]);

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
  { panes, offered }: { readonly panes: readonly Pane[]; readonly offered: readonly OfferedData[] },
): Pane {
  const taken = new Set(panes.map(({ id }) => id));
  const id = freeName(question.ask.replaceAll(' ', '-'), (each) => taken.has(each), '-');
  const kind = Object.values(kinds).find((each) => each.questions.includes(question));
  if (!kind) throw new TypeError(`no kind of pane answers “${question.words}”`);
  return {
    ...kind.suggest(question.ask, suggestionContext({ dataSetId, dataSet, offered })),
    id,
    place: freePlace(panes, question.size),
  } as Pane;
}

/** Fields by which a reader may narrow, with how: what a clause can be made of. */
export const clauseOffer = (type: DataSet['fields'][number]['type']): 'values' | 'number' | 'dates' =>
  isTemporal(type) ? 'dates' : isNumeric(type) ? 'number' : 'values';
