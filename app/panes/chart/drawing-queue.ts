/* Charts are drawn one in each frame, those in sight first: while a page of them draws, it goes on answering. */

interface Waiting {
  readonly place: HTMLElement;
  readonly draw: () => void;
}

let waiting: Waiting[] = [];
let isRunning = false;

const isInSight = ({ place }: Waiting): boolean => {
  const { top, bottom } = place.getBoundingClientRect();
  return bottom > 0 && top < window.innerHeight;
};

function drawNext(): void {
  // A place can leave the page before its component is told: what is left of its effects is cleared a moment later.
  waiting = waiting.filter(({ place }) => place.isConnected);
  const next = waiting.find(isInSight) ?? waiting[0];
  isRunning = next !== undefined;
  if (!next) return;
  waiting = waiting.filter((each) => each !== next);
  next.draw();
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
