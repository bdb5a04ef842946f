import { ProblemError } from '#core/value/problem/problem.ts';

/*
 * What only so much of may go on at once, so that one person takes one share of sources, memory and time, whatever they ask for.
 * Kept in one process (see `in-turn.ts`), and so for all of them.
 */

interface Bound {
  /** How many may wait or go on: of one person, and of all. */
  readonly ofOne: number;
  readonly ofAll: number;
  /** How many go on at the same time: of one person, and of all; the others wait. */
  readonly ofOneAtOnce: number;
  readonly atOnce: number;
  readonly doing: string;
  /** Why there can be no more: of one person, who has so many already, and of all. */
  readonly whyOne: (count: number) => string;
  readonly whyAll: string;
  readonly mend: string;
}

const any = Number.POSITIVE_INFINITY;

const bounds = {
  /** Files that are written to be downloaded: a person's one after the other. */
  download: {
    ofOne: 3,
    ofAll: 12,
    ofOneAtOnce: 1,
    atOnce: any,
    doing: 'downloading',
    whyOne: (count) => `${count} downloads of yours are being prepared already`,
    whyAll: 'very many downloads are being prepared already',
    mend: 'Wait until one of them has come, then try again.',
  },
  /** Files of people that are read. */
  upload: {
    ofOne: any,
    ofAll: any,
    ofOneAtOnce: any,
    atOnce: 2,
    doing: 'reading the file',
    whyOne: (count) => `${count} files of yours are being read already`,
    whyAll: 'very many files are being read already',
    mend: 'Wait a moment, then try again.',
  },
  /** Browsers that hear of changes. */
  line: {
    ofOne: 30,
    ofAll: any,
    ofOneAtOnce: any,
    atOnce: any,
    doing: 'following changes',
    whyOne: (count) => `${count} browsers of yours follow them already`,
    whyAll: 'very many browsers follow them already',
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
  const { atOnce, ofOneAtOnce } = bounds[of];
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
  const { ofOne, ofAll, whyOne, whyAll, doing, mend } = bounds[of];
  const all = turnsOf(of);
  const own = all.filter((each) => each.person === person).length;
  const busy = own >= ofOne ? whyOne(own) : all.length >= ofAll ? whyAll : null;
  if (busy !== null) throw new ProblemError({ code: 'too-much', doing, why: busy, mend });
  signal?.throwIfAborted();
  let turn: Turn | null = null;
  const leave = (): void => {
    const at = turn ? all.indexOf(turn) : -1;
    if (at < 0) return;
    all.splice(at, 1);
    beginNext(of);
  };
  await new Promise<void>((resolve, reject) => {
    turn = { person, begin: resolve, hasBegun: false };
    all.push(turn);
    signal?.addEventListener(
      'abort',
      () => {
        leave();
        reject(signal.reason);
      },
      { once: true },
    );
    beginNext(of);
  });
  return leave;
}
