/*
 * A page can be seen before its scripts have come. Links and forms work by then; a button that only scripts know does not, and what
 * somebody clicked would be lost. This keeps the last such click and makes it once the page answers.
 */

const live = 'live';

/** The script of a page that keeps an early click; it runs before any other, so it stands in the page itself. */
export const earlyClickScript = `(() => {
  let button = null;
  const keep = ({ target }) => {
    button = target instanceof Element ? target.closest('button[type="button"]') : null;
  };
  addEventListener('click', keep, true);
  addEventListener('${live}', () => {
    removeEventListener('click', keep, true);
    if (!button?.isConnected || button.disabled) return;
    button.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, cancelable: true, pointerType: 'mouse' }));
    button.click();
  }, { once: true });
})();`;

/** Says that the page answers to keys and clicks from now on. */
export function sayLive(): void {
  document.documentElement.dataset.live = 'yes';
  dispatchEvent(new Event(live));
}
