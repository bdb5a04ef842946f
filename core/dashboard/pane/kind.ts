import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Measure } from '#core/ask/measure/schema.ts';
import type { TableView } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { GroupsPlan, Plan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import type { Period } from '#core/value/period/schema.ts';
import type { Unit } from '#core/value/period/units.ts';
import type { Place, Shared } from './shared.ts';

/* What a kind of pane answers. Nothing outside its folders asks which kind a pane is of. */

/** One thing that narrows a pane, and who asked for it: what an empty pane is explained by. */
export interface Applied {
  /** `period`: the pane's own. */
  readonly from: 'dataSet' | 'pane' | 'period' | 'clause' | 'own' | 'focus';
  /** The clause's name, where a clause. */
  readonly name?: string;
  readonly condition: Condition | null;
  readonly filter: Filter;
  /** A period of one field, for comparing with the one before. */
  readonly period?: { field: string; period: Period };
  /** It says something of when, so that another stretch of time may not be whole under it. */
  readonly isTimed: boolean;
}

/** What a pane is asked with. */
export interface PaneContext {
  readonly dataSet: DataSet;
  readonly from: Relation;
  readonly applied: readonly Applied[];
  readonly clock: Clock;
  /** How the reader looks at it now. */
  readonly view: TableView;
  /** Something that narrows the pane, in words, and the clause that it is, where one. */
  readonly wordsOf: (applied: Applied) => { readonly words: string; readonly name?: string };
}

/** A question to the records: a plan, or how many records one has. */
export type PaneQuestion = { readonly plan: Plan } | { readonly count: RecordsPlan };
export type PaneQuestions = Readonly<Record<string, PaneQuestion>>;

/** The records of each plan, and the exact text of each count. */
export interface PaneAnswers {
  readonly records: Readonly<Record<string, readonly (readonly Cell[])[]>>;
  readonly counts: Readonly<Record<string, string>>;
}

/** What to ask for a pane, and what becomes of the answers. */
export interface PanePlan<Body> {
  /** What it shows comes of these. */
  readonly first: PaneQuestions;
  /** What is asked once those are answered. `isShown`: a person has what they waited for meanwhile. */
  readonly after?: (first: PaneAnswers) => { readonly ask: PaneQuestions; readonly isShown: boolean };
  readonly shape: (answers: PaneAnswers) => Body;
  /** The records that it lists, all of them in their order: what is sent as a file. */
  readonly list?: { readonly plan: RecordsPlan; readonly columns: readonly ListColumn[] };
  /** A number of it that can be opened; null where it has no such number. */
  readonly number?: (address: CellAddress) => OpenedNumber | null;
}

export interface ListColumn {
  readonly label: string;
  readonly name: string;
  readonly type: Field['type'];
}

/** A number of a pane: the values of its groups. `before` asks for the period it is compared with. */
export interface CellAddress {
  readonly values: readonly Cell[];
  /** The number is of the rest: of what is none of these. */
  readonly restOf?: readonly Cell[] | undefined;
  readonly before?: boolean | undefined;
}

export interface OpenedNumber {
  readonly plan: GroupsPlan;
  readonly planned: PlannedMeasure;
  readonly measure: Measure;
  /** What the number is of: "weather". */
  readonly words: string;
}

/** A part of a brief: plain words, or a slot that the analyst can fill otherwise. */
export interface BriefPart {
  readonly text: string;
  readonly slot?: string;
}

/** What the sentence of a kind is made with. */
export interface SentenceContext {
  readonly dataSet: DataSet;
  readonly clock: Clock;
  readonly field: (name: string) => string;
  readonly measure: (name: string) => BriefPart;
  /** Which records it is of, and of when; `comma` stands before that. */
  readonly which: (comma: ',' | '') => BriefPart[];
  /** What the record that it shows is called. */
  readonly pickWords: string;
}

/** A question from which a pane starts. */
export interface Question {
  readonly ask: string;
  readonly words: string;
  readonly leads: string;
  readonly size: Pick<Place, 'w' | 'h'>;
}

/** What a pane is suggested from. */
export interface SuggestionContext {
  readonly dataSet: DataSet;
  /** Fields that readers may see, without nested ones. */
  readonly visibleFields: readonly Field[];
  /** The first field that says when, and the first that sorts records into a few kinds. */
  readonly time: Field | undefined;
  readonly category: Field | undefined;
  readonly measure: string;
  readonly behind: string[];
}

type Own<P extends Shared> = Omit<P, keyof Shared> & { readonly title: string };

export interface PaneKind<P extends Shared & { readonly kind: string }, Body> {
  /** `scope`: it is narrowed by what a reader chooses. `picks`: it shows the record that is picked, whatever the scope. */
  readonly follows: 'scope' | 'picks';
  /** The fields of its data set that it names, beside those of its conditions; and its measures. */
  readonly fields: (pane: P) => readonly string[];
  readonly measures: (pane: P) => readonly string[];
  /** The fields that it shows by itself. */
  readonly shows: (pane: P, dataSet: DataSet) => readonly string[];
  /** It shows numbers, whose records can be opened. */
  readonly hasNumbers: boolean;
  /** The fields of records that it lists: each can be picked, and is looked at in an order, a page at a time. */
  readonly lists?: (pane: P) => readonly string[];
  /** The unit of time that it is divided by. */
  readonly unit?: (pane: P) => Unit | undefined;
  /** A pick of a field, or of a unit of it, shows in it which part was picked, and keeps the others in view. */
  readonly marks?: (pane: P, field: string, unit: Unit | undefined) => boolean;
  /** It as readers are sent it: without what it does not show. */
  readonly forReaders: (pane: P) => P;
  readonly ask: (pane: P, context: PaneContext) => PanePlan<Body>;
  readonly sentence: (pane: P, context: SentenceContext) => BriefPart[];
  /** The questions that it answers, and what it then is. */
  readonly questions: readonly Question[];
  readonly suggest: (ask: string, from: SuggestionContext) => Own<P>;
}
