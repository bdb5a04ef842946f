import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Measure } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { GroupsPlan, Plan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Clock } from '#core/value/period/period.ts';
import type { Period } from '#core/value/period/schema.ts';
import type { PaneRecords, Place, Shared } from './shared.ts';
import type { ShownMeasure } from './shown.ts';
import type { PaneView, ViewParts } from './view.ts';

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

/** The records of one use, as a pane is asked with them. */
export interface UsedRecords {
  readonly dataSet: DataSet;
  readonly from: Relation;
  readonly applied: readonly Applied[];
  /** Something that narrows them, in words, and the clause that it is, where one. */
  readonly wordsOf: (applied: Applied) => { readonly words: string; readonly name?: string };
}

/** What a pane is asked with. */
export interface PaneContext {
  /** In the order of what it uses. */
  readonly records: readonly UsedRecords[];
  readonly clock: Clock;
  /** How the reader looks at it now. */
  readonly view: PaneView;
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
  /** It as a page of a spreadsheet, as it looks. */
  readonly page?: (body: Body) => SheetPage;
  /** A number of it that can be opened; null where it has no such number. */
  readonly number?: (address: CellAddress) => OpenedNumber | null;
}

export interface ListColumn {
  readonly label: string;
  readonly name: string;
  readonly type: Field['type'];
  readonly bands?: Field['bands'];
}

/** Numbers under and beside their heads, as a spreadsheet has them. */
export interface SheetPage {
  /** What stands over the heads of the rows. */
  readonly corner: string;
  /** The heads over the numbers, a row for each level: from which of the columns on, and over how many columns and rows. */
  readonly heads: readonly (readonly {
    readonly words: string;
    readonly from: number;
    readonly columns: number;
    readonly rows: number;
  }[])[];
  readonly columns: readonly Pick<ShownMeasure, 'type' | 'format' | 'bands'>[];
  readonly rows: readonly {
    readonly words: string;
    /** How deep it belongs to others, from 0. */
    readonly depth: number;
    readonly isTotal: boolean;
    readonly cells: readonly Cell[];
  }[];
}

/** A number of a pane: the values of its groups. `before` asks for the period it is compared with. */
export interface CellAddress {
  readonly values: readonly Cell[];
  /** Of which groups the values are, by their indices; of the first ones where this is absent. */
  readonly of?: readonly number[] | undefined;
  /** Which of its measures, from 0. */
  readonly measure?: number | undefined;
  /** The number is of the rest: of what is none of these. */
  readonly restOf?: readonly Cell[] | undefined;
  readonly before?: boolean | undefined;
  /** The ranges that its first group's numbers are counted in, where those go by the records. */
  readonly bins?: Bins | undefined;
}

export interface OpenedNumber {
  /** Of which of what it uses the number is, from 0. */
  readonly use: number;
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

/** How the records of one use are said. */
export interface RecordsWords {
  readonly dataSet: DataSet;
  readonly field: (name: string) => string;
  readonly measure: (name: string) => BriefPart;
  /** Which records it is of, and of when; `comma` stands before that. */
  readonly which: (comma: ',' | '') => BriefPart[];
  /** What the record that it shows is called. */
  readonly pickWords: string;
}

/** What the sentence of a pane is made with. */
export interface SentenceContext {
  readonly clock: Clock;
  /** In the order of what it uses. */
  readonly records: readonly RecordsWords[];
}

/** A question from which a pane starts. */
export interface Question {
  readonly ask: string;
  readonly words: string;
  readonly leads: string;
  readonly size: Pick<Place, 'w' | 'h'>;
}

/** A data set that panes can be made of. */
export interface OfferedData {
  readonly id: string;
  readonly name: string;
  readonly dataSet: DataSet;
}

/** What a pane is suggested from. */
export interface SuggestionContext {
  readonly dataSetId: string;
  readonly dataSet: DataSet;
  /** All data sets, for what shows records of several. */
  readonly offered: readonly OfferedData[];
  /** Fields that readers may see, without nested ones. */
  readonly visibleFields: readonly Field[];
  /** The first field that says when, and the first that sorts records into a few kinds. */
  readonly time: Field | undefined;
  readonly category: Field | undefined;
  readonly measure: string;
  readonly behind: string[];
}

/** What a first dashboard of a data set is proposed from. */
export interface ProposalContext extends SuggestionContext {
  /** The fields that sort records into a few kinds, states first. */
  readonly categories: readonly Field[];
  /** Keeps what is not settled; null where nothing says so. */
  readonly open: Condition | null;
  /** When something is due, where a field says that. */
  readonly due: Field | null;
  /** Data sets whose records refer to those of this one, and by what. */
  readonly related: readonly { readonly data: OfferedData; readonly meaning: string }[];
}

/** A pane of a first dashboard: what it is, how large, and in which part of the page. */
export interface Proposal<P> {
  readonly pane: Unplaced<P>;
  readonly size: Pick<Place, 'w' | 'h'>;
  readonly part: 'numbers' | 'pictures' | 'records' | 'related';
}

/** A pane that has neither its name on the dashboard nor its place yet. */
export type Unplaced<P> = Omit<P, 'id' | 'place'>;

export interface PaneKind<P extends Shared & { readonly kind: string }, Body> {
  /** What readers can choose of how they look at it. */
  readonly view?: ((pane: P) => ViewParts) | undefined;
  /** The case that a reader has typed in it, where it shows what is of one. */
  readonly typedCase?: (view: PaneView) => string | undefined;
  /** It as readers are sent it: without what it does not show. */
  readonly forReaders: (pane: P) => P;
  /** With the records of one of what it uses chosen otherwise. */
  readonly withRecords: (pane: P, use: number, records: PaneRecords) => P;
  readonly ask: (pane: P, context: PaneContext) => PanePlan<Body>;
  readonly sentence: (pane: P, context: SentenceContext) => BriefPart[];
  /** What it says in a line of text, where that is all of it: "70". */
  readonly headline?: ((body: Body, clock: Clock) => string) | undefined;
  /** The questions that it answers, and what it then is. */
  readonly questions: readonly Question[];
  readonly suggest: (ask: string, from: SuggestionContext) => Unplaced<P>;
  /** The panes of it that a first dashboard of a data set has. */
  readonly propose?: ((from: ProposalContext) => readonly Proposal<P>[]) | undefined;
}
