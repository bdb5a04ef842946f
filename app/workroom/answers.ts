import type { SubmissionResult } from '@conform-to/react';
import type { Meaning } from '#core/dataset/meanings.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { FailingRecords } from '#server/checks/run.ts';
import type { Inside } from '#server/shape/inside.ts';
import type { MatchFigures, Near } from '#server/shape/look-up.ts';
import type { FieldProfile } from '#server/shape/profile.ts';
import type { StepFigures, StepRecords } from '#server/shape/records.ts';
import type { TraceStep } from '#server/shape/trace.ts';
import type { SeenFile } from '#server/uploads/look.ts';
import type { ValueCounts } from '#server/value-counts.ts';
import type { ConnectionReport, Trial } from '#sources/kind.ts';

/* What the server answers to the pages of the workroom. Plain data. */

export interface PublishAnswer {
  /** Why nothing was published; null when it was. */
  readonly refused: string | null;
}

export type TryAnswer =
  | { readonly ok: true; readonly tried: Trial }
  | { readonly ok: false; readonly problem: Problem };

export type SourceAnswer = {
  result: SubmissionResult;
  report: ConnectionReport | null;
  problem: Problem | null;
  /** The first real records. */
  look: Trial | null;
  /** A new intake and its key, shown this once. */
  added: { id: string; key: string } | null;
};

export type ShapeAnswer =
  | { readonly ok: true; readonly kind: 'records'; readonly found: StepRecords }
  | { readonly ok: true; readonly kind: 'figures'; readonly found: StepFigures }
  | { readonly ok: true; readonly kind: 'profile'; readonly found: FieldProfile[] }
  | { readonly ok: true; readonly kind: 'matches'; readonly found: MatchFigures }
  | { readonly ok: true; readonly kind: 'near'; readonly found: Near[] }
  | { readonly ok: true; readonly kind: 'meanings'; readonly found: Meaning[] }
  | { readonly ok: true; readonly kind: 'alike'; readonly found: string }
  | { readonly ok: true; readonly kind: 'values'; readonly found: ValueCounts }
  | { readonly ok: true; readonly kind: 'count'; readonly found: string }
  | { readonly ok: true; readonly kind: 'failing'; readonly found: FailingRecords }
  | { readonly ok: true; readonly kind: 'inside'; readonly found: Inside }
  | { readonly ok: true; readonly kind: 'trace'; readonly found: TraceStep[] }
  | { readonly ok: false; readonly problem: Problem };

export type LookAnswer =
  | { readonly ok: true; readonly seen: SeenFile }
  | { readonly ok: false; readonly problem: Problem };

export type ReceiveAnswer =
  | { readonly ok: true; readonly file: string; readonly size: number }
  | { readonly ok: false; readonly problem: Problem };
