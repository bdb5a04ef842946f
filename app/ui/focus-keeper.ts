import { useEffect } from 'react';
import { isNowhere } from './focus.ts';

/*
 * Where the focus goes when what has it goes: a row that is removed, a form that closes once it is filled in, a button that cannot be
 * pressed while something is saved. Without this it falls to the page as a whole, and whoever works by keyboard begins again at its top.
 */

/** What can be focused by Tab, in the order of the page. */
const reachable =
  'a[href], summary, button:not(:disabled), input:not(:disabled):not([type="hidden"]), textarea:not(:disabled), [tabindex="0"], [contenteditable="true"]';

/** This many neighbours on each side are known by the time that something goes. */
const mostNeighbours = 3;

/** One place on the way from an element up to the page: what stands there, and what stands beside it. */
interface Step {
  readonly element: Element;
  readonly beside: readonly Element[];
}

function siblings(element: Element, next: (from: Element) => Element | null): Element[] {
  const found: Element[] = [];
  for (let at = next(element); at && found.length < mostNeighbours; at = next(at)) found.push(at);
  return found;
}

/** The way from an element up to the page. */
function wayUp(from: Element): Step[] {
  const steps: Step[] = [];
  for (
    let element: Element | null = from;
    element && element !== document.body;
    element = element.parentElement
  ) {
    // What stands beside a part of the page, or under something that is open over it, is another matter.
    const isPart = element.parentElement === document.body;
    const beside = isPart
      ? []
      : [
          ...siblings(element, ({ nextElementSibling }) => nextElementSibling),
          ...siblings(element, ({ previousElementSibling }) => previousElementSibling),
        ];
    steps.push({ element, beside });
  }
  return steps;
}

const firstIn = (place: Element): HTMLElement | null =>
  place.matches(reachable) ? (place as HTMLElement) : place.querySelector<HTMLElement>(reachable);

/** What stands nearest to where something stood that is gone, or cannot be reached now; null where all around it went too. */
function nearest(way: readonly Step[]): HTMLElement | null {
  for (const { element, beside } of way) {
    if (element.matches('main, :has(main)')) return null;
    const within = element.isConnected ? firstIn(element) : null;
    if (within) return within;
    for (const neighbour of beside) {
      const found = neighbour.isConnected ? firstIn(neighbour) : null;
      if (found) return found;
    }
  }
  return null;
}

const isOpenOver = (element: Element): boolean =>
  element.closest('[data-radix-popper-content-wrapper], [role="dialog"], [role="alertdialog"]') !== null;

const isDisabled = (element: Element): boolean => element.matches(':disabled');

/**
 * Keeps the focus near where it was when what had it goes. It acts only while the focus is nowhere and nobody has put it there: a click
 * beside everything leaves it alone.
 */
export function useFocusKeeper(): void {
  useEffect(() => {
    let way: readonly Step[] = [];
    /** The way to what was focused before something opened over the page. */
    let under: readonly Step[] = [];
    let wasDisabled = false;
    const onFocus = ({ target }: FocusEvent): void => {
      if (!(target instanceof Element)) return;
      const last = way[0]?.element;
      if (isOpenOver(target)) {
        if (last && !isOpenOver(last)) under = way;
      } else under = [];
      way = wayUp(target);
      wasDisabled = false;
    };
    const onPointer = (): void => {
      // Whoever clicks has chosen where to be.
      if (isNowhere()) way = [];
    };
    const settle = (): void => {
      const on = way[0]?.element;
      if (!on || !isNowhere()) return;
      if (on.isConnected) {
        // What could not be pressed for a moment has the focus back once it can.
        if (on instanceof HTMLElement && wasDisabled && !isDisabled(on)) on.focus({ preventScroll: true });
        wasDisabled = isDisabled(on);
        return;
      }
      const before = under[0]?.element;
      const isThere = before instanceof HTMLElement && before.isConnected && !isDisabled(before);
      const found = nearest(way) ?? (isThere ? before : nearest(under));
      (found ?? document.querySelector<HTMLElement>('#main'))?.focus({ preventScroll: true });
    };
    // Later than the key that did it: its own action would else press what has the focus then.
    let soon: ReturnType<typeof setTimeout> | undefined;
    const observer = new MutationObserver(() => {
      if (way.length === 0 || !isNowhere()) return;
      clearTimeout(soon);
      soon = setTimeout(settle);
    });
    observer.observe(document.body, {
      subtree: true,
      childList: true,
      attributes: true,
      attributeFilter: ['disabled'],
    });
    document.addEventListener('focusin', onFocus);
    document.addEventListener('pointerup', onPointer);
    return () => {
      observer.disconnect();
      clearTimeout(soon);
      document.removeEventListener('focusin', onFocus);
      document.removeEventListener('pointerup', onPointer);
    };
  }, []);
}
