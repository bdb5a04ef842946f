import { z } from 'zod';
import type { Tone } from '#core/value/field/types.ts';

/* What somebody must do about a record: kept here, whatever its source. */

export const followUpStates = ['open', 'waiting', 'settled'] as const;
export type FollowUpState = (typeof followUpStates)[number];

export const followUpLooks: Readonly<Record<FollowUpState, { readonly word: string; readonly tone: Tone }>> =
  {
    open: { word: 'Open', tone: 'moving' },
    waiting: { word: 'Waiting', tone: 'waiting' },
    settled: { word: 'Settled', tone: 'settled' },
  };

export interface FollowUpNote {
  readonly id: number;
  /** ISO 8601. */
  readonly at: string;
  readonly by: string;
  readonly note: string;
  readonly state: FollowUpState;
  /** A day; null for none. */
  readonly due: string | null;
  readonly givenTo: string | null;
  /** The names of those who were told of it. */
  readonly recipients: readonly string[];
  readonly files: readonly FollowUpFile[];
}

export interface FollowUpFile {
  readonly id: string;
  readonly name: string;
  readonly bytes: number;
}

/** As many files as stand with one note, and as many bytes as they have together. */
export const mostFiles = 5;
export const mostFileBytes = 5_000_000;

/** How a record stands, with what was said of it, latest first. */
export interface FollowUpView {
  readonly state: FollowUpState;
  readonly due: string | null;
  /** The id of a person. */
  readonly givenTo: string | null;
  readonly notes: readonly FollowUpNote[];
  /** Whoever looks was told of a note that they have not had before them yet. */
  readonly isNews: boolean;
}

/** What a page is told of the follow-up of a record. */
export interface FollowUpAnswer {
  readonly view: FollowUpView | null;
  /** Who it can be given to. */
  readonly people: readonly { readonly id: string; readonly name: string }[];
  /** Why the person who looks may add nothing; null where they may. */
  readonly refusal: string | null;
}

export interface ListedFollowUp {
  readonly id: string;
  readonly key: string;
  readonly title: string;
  readonly noun: string;
  readonly state: FollowUpState;
  readonly due: string | null;
  readonly givenTo: string | null;
  readonly touchedAt: string;
  readonly touchedBy: string;
  /** Whoever looks was told of it, and has not had it before them yet. */
  readonly isNews: boolean;
  readonly dashboardId: string;
  readonly pane: string;
  readonly slug: string;
}

/** Which follow-ups of a desk are listed: those for whoever looks, all that is open, or what was settled. */
export const followUpLists = ['mine', 'open', 'settled'] as const;
export type FollowUpList = (typeof followUpLists)[number];

/** What is said of a record, as it crosses. */
export const AskedFollowUp = z.object({
  pane: z.string().max(60),
  key: z.string().min(1).max(2000),
  note: z.string().trim().min(1, 'say what you learnt, or what is to be done').max(10_000),
  state: z.enum(followUpStates),
  due: z.iso.date().nullable(),
  givenTo: z.uuid().nullable(),
  /** Who is told of it, beside whoever it is given to. */
  tells: z.array(z.uuid()).max(50).default([]),
});

/** That somebody has what was said of a record before them. */
export const SeenFollowUp = AskedFollowUp.pick({ pane: true, key: true }).extend({ isSeen: z.literal(true) });
