import { type RefObject, useEffect, useRef } from 'react';

/** Takes the file that somebody chose before the page answered. */
export function useEarlyFile(input: RefObject<HTMLInputElement | null>, take: (file: File) => void): void {
  const taking = useRef(take);
  useEffect(() => {
    const [file] = input.current?.files ?? [];
    if (file) taking.current(file);
  }, [input]);
}
