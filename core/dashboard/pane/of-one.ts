import type {
  BriefPart,
  OpenedNumber,
  PaneContext,
  PaneKind,
  PanePlan,
  RecordsWords,
  SentenceContext,
  SuggestionContext,
  Unplaced,
  UsedRecords,
} from './kind.ts';
import type { PaneRecords, Shared } from './shared.ts';

/* Kinds of pane that show records of one data set. */

/** What such a pane is asked with. */
export interface OneContext extends UsedRecords, Omit<PaneContext, 'records'> {}

/** What its sentence is made with. */
export interface OneSentence extends RecordsWords, Omit<SentenceContext, 'records'> {}

/** What to ask for it: its numbers are of those records. */
export interface OnePlan<Body> extends Omit<PanePlan<Body>, 'number'> {
  readonly number?: (
    ...of: Parameters<NonNullable<PanePlan<Body>['number']>>
  ) => Omit<OpenedNumber, 'use'> | null;
}

type OnePane = Shared & PaneRecords & { readonly kind: string };

export interface OneKind<P extends OnePane, Body>
  extends Omit<PaneKind<P, Body>, 'ask' | 'sentence' | 'suggest' | 'withRecords'> {
  readonly ask: (pane: P, context: OneContext) => OnePlan<Body>;
  readonly sentence: (pane: P, context: OneSentence) => BriefPart[];
  readonly suggest: (ask: string, from: SuggestionContext) => Omit<Unplaced<P>, 'dataSet'>;
}

/** The records of a pane as readers are told of them. That it waits is no secret; what it waits for is a name of the source's. */
export function withoutRecordsWords<P extends PaneRecords>(pane: P): P {
  const { keeping: _, subset: __, when: ___, waitsFor, ...rest } = pane;
  return { ...rest, ...(waitsFor === undefined ? {} : { waitsFor: 'record' }) } as P;
}

/** A kind that shows records of one data set, from what it answers of those. */
export function ofOne<P extends OnePane, Body>(kind: OneKind<P, Body>): PaneKind<P, Body> {
  return {
    ...kind,
    forReaders: (pane) => kind.forReaders(withoutRecordsWords(pane)),
    withRecords: (pane, _, records) => ({ ...pane, ...records }),
    ask: (pane, { records: [used], ...context }) => {
      if (!used) throw new TypeError('a pane of one data set is asked with its records');
      const { number, ...plan } = kind.ask(pane, { ...used, ...context });
      if (!number) return plan;
      return {
        ...plan,
        number: (address) => {
          const opened = number(address);
          return opened && { ...opened, use: 0 };
        },
      };
    },
    sentence: (pane, { records: [words], ...context }) =>
      words ? kind.sentence(pane, { ...words, ...context }) : [],
    suggest: (ask, from) =>
      ({ ...kind.suggest(ask, from), dataSet: from.dataSetId }) as unknown as Unplaced<P>,
  };
}
