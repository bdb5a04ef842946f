/*
 * A page may move while a button of the mouse is down: something comes in above what is pressed. The browser then takes the click for one
 * on what contains both places, and what was pressed is not done. Whoever has not moved the mouse means what they pressed.
 */

/** What was pressed, where it stood, and where the pointer was: CSS pixels from the corner of the window. */
interface Press {
  readonly control: HTMLElement;
  readonly left: number;
  readonly top: number;
  readonly x: number;
  readonly y: number;
}

/** No hand is steadier than this, in CSS pixels. */
const steady = 3;

let press: Press | null = null;

function onPress({ target, button, clientX: x, clientY: y }: PointerEvent): void {
  const control =
    button === 0 && target instanceof Element
      ? target.closest<HTMLElement>('a[href], button, summary')
      : null;
  press = null;
  if (!control) return;
  const { left, top } = control.getBoundingClientRect();
  press = { control, left, top, x, y };
}

function onClick(event: MouseEvent): void {
  const was = press;
  press = null;
  if (!was?.control.isConnected || !event.isTrusted) return;
  if (event.target instanceof Node && was.control.contains(event.target)) return;
  const { left, top } = was.control.getBoundingClientRect();
  const hasMoved = left !== was.left || top !== was.top;
  const isSteady = Math.abs(event.clientX - was.x) < steady && Math.abs(event.clientY - was.y) < steady;
  if (!hasMoved || !isSteady) return;
  event.stopImmediatePropagation();
  event.preventDefault();
  was.control.dispatchEvent(new MouseEvent('click', event));
}

/** Lets a click do what was pressed, wherever that stands by then. */
export function keepClicksSteady(): void {
  addEventListener('pointerdown', onPress, true);
  addEventListener('click', onClick, true);
}
