import { type RefObject, useEffect, useRef } from 'react';

/** What is there within this many milliseconds is not missed. */
const lateMs = 200;

/** Marks an element as late, `data-late`, while something that it waits for is not there soon. To render for that would take longer. */
export function useLateMark(isWaiting: boolean): RefObject<HTMLElement | null> {
  const place = useRef<HTMLElement>(null);
  useEffect(() => {
    if (!isWaiting) return;
    const timer = setTimeout(() => place.current?.setAttribute('data-late', ''), lateMs);
    return () => {
      clearTimeout(timer);
      place.current?.removeAttribute('data-late');
    };
  }, [isWaiting]);
  return place;
}
