import { useEffect } from 'react';

/** The pixels of paper between the margins: A4 on its side, as the style sheet asks for it, unless the page says `data-paper`. */
const paperWidth = 1032;

/** Has a dashboard printed as it stands on the screen, made as small as the paper needs: what is drawn keeps its size in its place. */
export function usePrintSize(): void {
  useEffect(() => {
    const measure = (): void => {
      const paper = Number(document.documentElement.dataset.paper) || paperWidth;
      const width = document.getElementById('main')?.offsetWidth ?? paper;
      const { style } = document.documentElement;
      style.setProperty('--print-width', `${width}px`);
      style.setProperty('--print-zoom', String(Math.min(1, paper / width)));
    };
    window.addEventListener('beforeprint', measure);
    return () => window.removeEventListener('beforeprint', measure);
  }, []);
}
