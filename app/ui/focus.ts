import { type RefObject, useEffect } from 'react';

/** What a person can type into or choose from, in the order of the page. */
const controls = 'select, input, textarea, button, [contenteditable="true"]';

/** Whether nothing on the page has the focus. */
export const isNowhere = (active: Element | null = document.activeElement): boolean =>
  active === null || active === document.body;

/** Whether nobody would miss the focus: it is on nothing, or in a popover that is closing. Where a person has put it, it stays. */
export function isFocusFree(active: Element | null = document.activeElement): boolean {
  return isNowhere(active) || Boolean(active?.closest('[role="dialog"][data-state="closed"]'));
}

/** Gives the focus to the first control in a place when it arrives, and at no other time: never later, never to take it away. */
export function useFocusOnArrival(place: RefObject<HTMLElement | null>, when: boolean): void {
  useEffect(() => {
    if (when && isFocusFree()) place.current?.querySelector<HTMLElement>(controls)?.focus();
  }, [when, place]);
}

/** Gives the focus to the first control of what has come late into a sheet, where the sheet as a whole has it; `first` says which that is. */
export function useFocusInSheet(place: RefObject<HTMLElement | null>, when: boolean, first = controls): void {
  useEffect(() => {
    const sheet = when && place.current?.closest('[role="dialog"]');
    if (sheet && sheet === document.activeElement) place.current?.querySelector<HTMLElement>(first)?.focus();
  }, [when, place, first]);
}

/** Whether keys that are pressed there are text. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
