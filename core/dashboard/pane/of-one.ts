import type {
  BriefPart,
  OpenedNumber,
  PaneContext,
  PaneKind,
  PanePlan,
  PaneUse,
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

/** What to ask for it: its numbers and its list are of those records. */
export interface OnePlan<Body> extends Omit<PanePlan<Body>, 'list' | 'number'> {
  readonly list?: Omit<NonNullable<PanePlan<Body>['list']>, 'dataSet'>;
  readonly number?: (
    ...of: Parameters<NonNullable<PanePlan<Body>['number']>>
  ) => Omit<OpenedNumber, 'dataSet' | 'use'> | null;
}

type OnePane = Shared & PaneRecords & { readonly kind: string };

export interface OneKind<P extends OnePane, Body>
  extends Omit<PaneKind<P, Body>, 'uses' | 'ask' | 'sentence' | 'suggest'> {
  readonly use: (pane: P) => Omit<PaneUse, keyof PaneRecords>;
  readonly ask: (pane: P, context: OneContext) => OnePlan<Body>;
  readonly sentence: (pane: P, context: OneSentence) => BriefPart[];
  readonly suggest: (ask: string, from: SuggestionContext) => Omit<Unplaced<P>, 'dataSet'>;
}

const recordsOf = ({ dataSet, subset, keeping, when, waitsFor }: PaneRecords): PaneRecords => ({
  dataSet,
  subset,
  keeping,
  when,
  waitsFor,
});

/** The records of a pane as readers are told of them. That it waits is no secret; what it waits for is a name of the source's. */
function forReaders<P extends PaneRecords>(pane: P): P {
  const { keeping: _, subset: __, when: ___, waitsFor, ...rest } = pane;
  return { ...rest, ...(waitsFor === undefined ? {} : { waitsFor: 'record' }) } as P;
}

/** A kind that shows records of one data set, from what it answers of those. */
export function ofOne<P extends OnePane, Body>(kind: OneKind<P, Body>): PaneKind<P, Body> {
  const withRecords = (pane: P): PaneUse => ({ ...recordsOf(pane), ...kind.use(pane) });
  return {
    ...kind,
    uses: (pane) => [withRecords(pane)],
    forReaders: (pane) => kind.forReaders(forReaders(pane)),
    ask: (pane, { records: [used], ...context }) => {
      if (!used) throw new TypeError('a pane of one data set is asked with its records');
      const { dataSet } = used;
      const { list, number, ...plan } = kind.ask(pane, { ...used, ...context });
      return {
        ...plan,
        ...(list ? { list: { ...list, dataSet } } : {}),
        ...(number
          ? {
              number: (address) => {
                const opened = number(address);
                return opened && { ...opened, dataSet, use: withRecords(pane) };
              },
            }
          : {}),
      };
    },
    sentence: (pane, { records: [words], ...context }) =>
      words ? kind.sentence(pane, { ...words, ...context }) : [],
    suggest: (ask, from) =>
      ({ ...kind.suggest(ask, from), dataSet: from.dataSetId }) as unknown as Unplaced<P>,
  };
}
