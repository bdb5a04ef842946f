import { ProblemError } from '#core/value/problem/problem.ts';

/*
 * What only so much of may go on at once, so that one person takes one share of sources, memory and time, whatever they ask for.
 * Kept in one process (see `in-turn.ts`), and so for all of them.
 */

interface Bound {
  /** How many of one person's, and of all, may wait or go on, and why there can be no more; absent: any number. */
  readonly ofOne?: { readonly most: number; readonly why: (count: number) => string };
  readonly ofAll?: { readonly most: number; readonly why: string };
  /** How many of one person's, and of all, go on at the same time, while the others wait; absent: any number. */
  readonly ofOneAtOnce?: number;
  readonly atOnce?: number;
  readonly doing: string;
  readonly mend: string;
}

const any = Number.POSITIVE_INFINITY;

const bounds = {
  /** Files that are written to be downloaded: a person's one after the other. */
  download: {
    ofOne: { most: 3, why: (count) => `${count} downloads of yours are being prepared already` },
    ofAll: { most: 12, why: 'many downloads are being prepared already' },
    ofOneAtOnce: 1,
    doing: 'downloading',
    mend: 'Wait until one of them has come, then try again.',
  },
  /** Pages that are drawn for paper, each by a browser of its own. */
  paper: {
    ofOne: { most: 3, why: (count) => `${count} PDFs of yours are being written already` },
    ofAll: { most: 20, why: 'many PDFs are being written already' },
    ofOneAtOnce: 1,
    atOnce: 2,
    doing: 'writing the PDF',
    mend: 'Wait until one of them has come, then try again.',
  },
  /** Files of people that are read. */
  upload: { atOnce: 2, doing: 'reading the file', mend: 'Wait a moment, then try again.' },
  /** Browsers that hear of changes. */
  line: {
    ofOne: { most: 30, why: (count) => `${count} browsers of yours follow them already` },
    doing: 'following changes',
    mend: 'Close one of them.',
  },
} satisfies Record<string, Bound>;

export type TurnOf = keyof typeof bounds;

/** In the order in which they were asked for. */
interface Turn {
  readonly person: string;
  readonly begin: () => void;
  hasBegun: boolean;
}

const turns = new Map<TurnOf, Turn[]>(
  (Object.keys(bounds) as TurnOf[]).map((of): [TurnOf, Turn[]] => [of, []]),
);
const turnsOf = (of: TurnOf): Turn[] => turns.get(of) ?? [];

function beginNext(of: TurnOf): void {
  const { atOnce = any, ofOneAtOnce = any }: Bound = bounds[of];
  for (const turn of turnsOf(of)) {
    if (turn.hasBegun) continue;
    const begun = turnsOf(of).filter(({ hasBegun }) => hasBegun);
    if (begun.length >= atOnce) return;
    if (begun.filter(({ person }) => person === turn.person).length >= ofOneAtOnce) continue;
    turn.hasBegun = true;
    turn.begin();
  }
}

/** Waits for a person's turn; gives what ends it. Throws a {@link ProblemError} where too many wait already. */
export async function takeTurn(of: TurnOf, person: string, signal?: AbortSignal): Promise<() => void> {
  const { ofOne, ofAll, doing, mend }: Bound = bounds[of];
  const all = turnsOf(of);
  const own = all.filter((each) => each.person === person).length;
  const busy = (why: string): ProblemError => new ProblemError({ code: 'too-much', doing, why, mend });
  if (ofOne && own >= ofOne.most) throw busy(ofOne.why(own));
  if (ofAll && all.length >= ofAll.most) throw busy(ofAll.why);
  signal?.throwIfAborted();
  let turn: Turn | undefined;
  const leave = (): void => {
    const at = turn ? all.indexOf(turn) : -1;
    if (at < 0) return;
    all.splice(at, 1);
    beginNext(of);
  };
  let giveUp = (): void => undefined;
  try {
    await new Promise<void>((resolve, reject) => {
      turn = { person, begin: resolve, hasBegun: false };
      all.push(turn);
      giveUp = () => {
        leave();
        reject(signal?.reason);
      };
      signal?.addEventListener('abort', giveUp, { once: true });
      beginNext(of);
    });
  } finally {
    // One that has begun lasts until what is done in it has ended, whoever has left meanwhile.
    signal?.removeEventListener('abort', giveUp);
  }
  return leave;
}
