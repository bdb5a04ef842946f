import type { ReviewedItem } from '#core/definitions/review.ts';
import type { OfferedSource } from '#server/definitions/bring-in.ts';

/** What a file of definitions would do, did, or why it cannot. */
export type FileAnswer =
  | {
      readonly state: 'looked';
      readonly sources: readonly OfferedSource[];
      readonly items: readonly ReviewedItem[];
    }
  | { readonly state: 'brought in'; readonly items: readonly ReviewedItem[] }
  | {
      readonly state: 'refused';
      readonly why: readonly string[];
      readonly sources?: readonly OfferedSource[];
      readonly items?: readonly ReviewedItem[];
    };
