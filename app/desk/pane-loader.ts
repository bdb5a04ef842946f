import type { PickedRecords } from '#core/dashboard/flow/context.ts';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import type { Delays } from '#server/panes/delays.ts';
import type { ScopeCount } from '#server/panes/shown.ts';

/* What the panes of a page show: asked for, kept for a while, and asked for again where it failed. */

export type Answer = PaneResult | ScopeCount | PickedRecords | Delays | null;

/** What is asked for each pane, by its id, as a text that is the same where the same is asked; and the scope as an address has it. */
export interface Shown {
  readonly keys: Readonly<Record<string, string>>;
  readonly search: string;
}

/** An answer with what it is to, and whether it is the one that came with the page. */
interface Known {
  readonly key: string;
  readonly answer: Answer;
  readonly isFirst: boolean;
}

/** The latest answers, and the panes that wait for a newer one. */
export interface Loaded {
  readonly known: Readonly<Record<string, Known>>;
  readonly pending: ReadonlySet<string>;
}

/** Asks for panes with a scope; each answer comes as soon as it is there, and may come more than once. */
export type AskForPanes = (
  ids: readonly string[],
  search: string,
  signal: AbortSignal,
) => AsyncIterable<{ readonly id: string; readonly result: Answer }>;

/** A request that has not been answered in full: what is still awaited of it, by pane. */
interface Batch {
  readonly stop: AbortController;
  readonly keys: Map<string, string>;
}

/** Answers kept for going back, and how long they are good for. */
const mostKept = 200;
const keptMs = 60_000;
/** After how long what failed is asked for again, the first time and later ones. */
const retryMs = [3_000, 6_000, 12_000];
const longestRetryMs = 24_000;
const transient = new Set(['unreachable', 'refused', 'time-out', 'too-much']);

const lost: PaneResult = {
  state: 'failed',
  problem: {
    code: 'unreachable',
    doing: 'asking this server',
    why: 'the connection was lost',
    mend: 'It is tried again by itself.',
  },
};

const failureOf = (answer: Answer): string | null =>
  answer && 'state' in answer && answer.state === 'failed' ? answer.problem.code : null;
const isPartial = (answer: Answer): boolean =>
  answer !== null && 'state' in answer && answer.state === 'ready' && answer.isPartial === true;

/** Loads the panes of one page. `tell` is told whenever something has changed. */
export class PaneLoader {
  private loaded: Loaded = { known: {}, pending: new Set() };
  private readonly kept = new Map<string, { readonly answer: Answer; readonly at: number }>();
  private readonly tries = new Map<string, number>();
  private asking: Batch[] = [];
  /** When each was asked for last as the page shows it, as `performance.now()` has it. */
  private readonly askedAt = new Map<string, number>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private shown: Shown,
    private readonly askForPanes: AskForPanes,
    private readonly tell: (loaded: Loaded) => void,
  ) {}

  /** What the page is about from now on: panes for which it is another thing are asked for, unless their answer is known. */
  show(shown: Shown): void {
    const { keys: before } = this.shown;
    this.shown = shown;
    const others = Object.entries(shown.keys).filter(([id, key]) => key !== before[id]);
    if (others.length === 0) return;
    const known = { ...this.loaded.known };
    const pending = new Set(this.loaded.pending);
    const unknown: string[] = [];
    for (const [id, key] of others) {
      const answer = this.keptAnswer(key);
      if (answer !== undefined) {
        this.leave([id]);
        known[id] = { key, answer, isFirst: false };
        pending.delete(id);
      } else if (this.isAsking(id, key)) pending.add(id);
      else unknown.push(id);
    }
    this.change({ known, pending });
    if (unknown.length > 0) this.ask(unknown);
  }

  /** What the page is about to show: asked for now, while the page is drawn for it. */
  askAhead(next: Shown): void {
    // What the page shows is asked for again where a change that was taken back at once has stopped it.
    const isShown = (id: string, key: string): boolean =>
      key === this.shown.keys[id] && !this.loaded.pending.has(id);
    const ids = Object.entries(next.keys).flatMap(([id, key]) =>
      isShown(id, key) || this.keptAnswer(key) !== undefined || this.isAsking(id, key) ? [] : [id],
    );
    if (ids.length > 0) void this.request(ids, next);
  }

  /** Asks again; what is shown stays until the answer is there. */
  ask(ids: readonly string[]): void {
    for (const id of ids) this.askedAt.set(id, performance.now());
    this.change({ ...this.loaded, pending: new Set([...this.loaded.pending, ...ids]) });
    void this.request(ids, this.shown);
  }

  /** Asks for all again; with a moment (`performance.now()`) for those that have not been asked for since. */
  askAll(since = Number.POSITIVE_INFINITY): void {
    const ids = Object.keys(this.shown.keys).filter((id) => (this.askedAt.get(id) ?? -1) < since);
    if (ids.length > 0) this.ask(ids);
  }

  /** Takes answers that come with the page itself: they are to what it shows now, whatever it shows when they are there. */
  take(answers: Readonly<Record<string, Answer | Promise<Answer>>>): void {
    const { keys } = this.shown;
    for (const [id, coming] of Object.entries(answers))
      void Promise.resolve(coming).then((answer) => {
        const key = keys[id] ?? '';
        if (failureOf(answer) === null) this.keep(key, answer);
        const { known, pending } = this.loaded;
        if (known[id] || this.shown.keys[id] !== keys[id]) return;
        this.change({ known: { ...known, [id]: { key, answer, isFirst: true } }, pending });
      });
  }

  /** Keeps no answer any longer: records have changed. */
  forget(): void {
    this.kept.clear();
  }

  /** Asks for nothing any more. */
  stop(): void {
    clearTimeout(this.timer);
    for (const { stop } of this.asking) stop.abort();
  }

  private async request(ids: readonly string[], { keys, search }: Shown): Promise<void> {
    this.leave(ids);
    const batch: Batch = {
      stop: new AbortController(),
      keys: new Map(ids.map((id) => [id, keys[id] ?? ''])),
    };
    this.asking = [...this.asking.filter((each) => each.keys.size > 0), batch];
    const { signal } = batch.stop;
    try {
      for await (const { id, result } of this.askForPanes(ids, search, signal))
        this.settle(batch, id, result);
    } catch {
      // Whoever stopped it waits for nothing; else what has not come is lost.
    }
    if (!signal.aborted) for (const id of [...batch.keys.keys()]) this.settle(batch, id, lost);
  }

  private settle(batch: Batch, id: string, answer: Answer): void {
    const key = batch.keys.get(id);
    if (key === undefined) return;
    const isDone = !isPartial(answer);
    if (isDone) {
      batch.keys.delete(id);
      if (failureOf(answer) === null) {
        this.tries.delete(id);
        this.keep(key, answer);
      }
    }
    // The page is not there yet, or no longer.
    if (this.shown.keys[id] !== key) return;
    const pending = new Set(this.loaded.pending);
    if (isDone) pending.delete(id);
    this.change({ known: { ...this.loaded.known, [id]: { key, answer, isFirst: false } }, pending });
  }

  /** Waits no longer for what was asked of panes before; what nobody waits for is stopped. */
  private leave(ids: readonly string[]): void {
    for (const { keys, stop } of this.asking) {
      for (const id of ids) keys.delete(id);
      if (keys.size === 0) stop.abort();
    }
  }

  private isAsking(id: string, key: string): boolean {
    return this.asking.some(({ keys }) => keys.get(id) === key);
  }

  private keep(key: string, answer: Answer): void {
    this.kept.set(key, { answer, at: performance.now() });
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= mostKept) break;
      this.kept.delete(oldest);
    }
  }

  private keptAnswer(key: string): Answer | undefined {
    const kept = this.kept.get(key);
    return kept && performance.now() - kept.at <= keptMs ? kept.answer : undefined;
  }

  private change(loaded: Loaded): void {
    this.loaded = loaded;
    this.tell(loaded);
    this.retryLater();
  }

  /** A source that went away is asked again by itself, less and less often; its panes mend without anybody reloading. */
  private retryLater(): void {
    clearTimeout(this.timer);
    const { known, pending } = this.loaded;
    const broken = Object.entries(known).flatMap(([id, { answer }]) =>
      !pending.has(id) && transient.has(failureOf(answer) ?? '') ? [id] : [],
    );
    if (broken.length === 0) return;
    const waits = broken.map((id) => retryMs[this.tries.get(id) ?? 0] ?? longestRetryMs);
    this.timer = setTimeout(
      () => {
        for (const id of broken) this.tries.set(id, (this.tries.get(id) ?? 0) + 1);
        this.ask(broken);
      },
      Math.min(...waits),
    );
  }
}
