/*
 * A page can be seen before its scripts have come. Links and forms work by then; a button that only scripts know does not, and what
 * somebody clicked would be lost. This keeps the last such click and makes it once the page answers. From the moment that the page is
 * taken over, clicks are the framework's, which makes each of them by itself; it takes over a pane for the sake of a click only once it is
 * done with the page, hence the timer.
 */

const [takenOver, live] = ['slate:taken-over', 'slate:live'];

/** The script of a page that keeps an early click; it runs before any other, so it stands in the page itself. */
export const earlyClickScript = `(() => {
  let button = null;
  const keep = ({ target }) => {
    button = target instanceof Element ? target.closest('button[type="button"]') : null;
  };
  addEventListener('click', keep, true);
  addEventListener('${takenOver}', () => removeEventListener('click', keep, true), { once: true });
  addEventListener('${live}', () => setTimeout(() => {
    if (!button?.isConnected || button.disabled) return;
    button.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, cancelable: true, pointerType: 'mouse' }));
    button.click();
  }), { once: true });
})();`;

/** Says that the page is being taken over from the server. */
export const sayTakenOver = (): void => void dispatchEvent(new Event(takenOver));

/** Says that the page answers to keys and clicks from now on. */
export function sayLive(): void {
  document.documentElement.dataset.live = 'yes';
  dispatchEvent(new Event(live));
}
