/*
 * Charts are drawn one in each frame, those in sight first: while a page of them draws, it goes on answering. Those that are known to be
 * quick share a frame.
 */

interface Waiting {
  readonly place: HTMLElement;
  readonly draw: () => void;
}

/** Charts that share a frame take no longer than this together, in milliseconds. */
const frameMs = 50;

let waiting: Waiting[] = [];
let isRunning = false;
/** The milliseconds that it took to draw in a place the last time. */
const took = new WeakMap<HTMLElement, number>();

const isInSight = ({ place }: Waiting): boolean => {
  const { top, bottom } = place.getBoundingClientRect();
  return bottom > 0 && top < window.innerHeight;
};

/** Those that wait, those in sight first. */
function inOrder(): Waiting[] {
  const [seen, others]: [Waiting[], Waiting[]] = [[], []];
  for (const each of waiting) (isInSight(each) ? seen : others).push(each);
  return [...seen, ...others];
}

function drawNext(): void {
  // A place can leave the page before its component is told: what is left of its effects is cleared a moment later.
  waiting = waiting.filter(({ place }) => place.isConnected);
  isRunning = waiting.length > 0;
  if (!isRunning) return;
  const begun = performance.now();
  for (const [at, next] of inOrder().entries()) {
    const started = performance.now();
    if (at > 0 && started - begun + (took.get(next.place) ?? frameMs) > frameMs) break;
    waiting = waiting.filter((each) => each !== next);
    next.draw();
    took.set(next.place, performance.now() - started);
  }
  requestAnimationFrame(drawNext);
}

/** Draws in a place when its turn comes, if the place still stands in the page. Returns how to give the turn up. */
export function drawInTurn(place: HTMLElement, draw: () => void): () => void {
  const one = { place, draw };
  waiting.push(one);
  if (!isRunning) {
    isRunning = true;
    requestAnimationFrame(drawNext);
  }
  return () => {
    waiting = waiting.filter((each) => each !== one);
  };
}
