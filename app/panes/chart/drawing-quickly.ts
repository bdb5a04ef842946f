import type ApexCharts from 'apexcharts';

/*
 * The charts' library asks the page for the size of each label, of its letters and of each new shape, one after the other, and the
 * page is styled and laid out again for each: a fifth of the time that a page of charts takes. What it asks is known without the page.
 */

interface Size {
  readonly width: number;
  readonly height: number;
}

/** What the library draws with, as far as it measures labels. */
interface Graphics {
  readonly w: { readonly config: { readonly chart: { readonly fontFamily?: string } } };
  getTextRects(
    text: unknown,
    fontSize?: string | number,
    fontFamily?: string | null,
    ...turned: unknown[]
  ): Size;
}

/** What the library hides labels with until what it draws has stopped moving. */
interface Animations {
  readonly w: { readonly globals: { delayedElements: unknown[] } };
  showDelayedElements(): void;
}

/** A drawing that shapes are put into. */
interface Drawing {
  text(words: string): Text;
  rect(width?: number, height?: number): unknown;
}

/** A text in a drawing, with its lines. */
interface Text {
  /** Whether lines are placed when the text moves. */
  _rebuild?: boolean;
  children(): { readonly dom: { readonly newLined?: boolean }; attr(to: object): unknown }[];
  attr(name: string): unknown;
  rebuild(isOn?: boolean): Text;
}

let canvas: CanvasRenderingContext2D | null = null;

/** The size of a line of text, in CSS pixels; null where there is nothing to measure it on. */
function sizeOf(text: string, fontSize: string, fontFamily: string): Size | null {
  canvas ??= document.createElement('canvas').getContext('2d');
  if (!canvas) return null;
  canvas.font = `${fontSize} ${fontFamily}`;
  const { width, fontBoundingBoxAscent, fontBoundingBoxDescent } = canvas.measureText(text);
  return { width, height: fontBoundingBoxAscent + fontBoundingBoxDescent };
}

/** Labels of one line that stand upright are measured on a canvas, in place of the page. */
function measureOnCanvas(graphics: Graphics): void {
  const inPage = graphics.getTextRects;
  graphics.getTextRects = function (text, fontSize, fontFamily, ...turned) {
    const family = fontFamily || this.w.config.chart.fontFamily;
    const isLine = typeof text === 'string' || typeof text === 'number';
    const size =
      isLine && family && turned.length === 0
        ? sizeOf(String(text), typeof fontSize === 'number' ? `${fontSize}px` : fontSize || '11px', family)
        : null;
    return size ?? inPage.call(this, text, fontSize, fontFamily, ...turned);
  };
}

/** The size of letters is asked for where a line stands below another, and not for those that have nothing above them. */
function placeSingleLines(text: Text): void {
  const allLines = text.rebuild;
  text.rebuild = function (isOn) {
    const [first, ...more] = this.children();
    if (this._rebuild === undefined || more.some(({ dom }) => dom.newLined)) return allLines.call(this, isOn);
    if (isOn !== undefined) this._rebuild = isOn;
    if (this._rebuild && first?.dom.newLined) first.attr({ x: this.attr('x'), dy: 0 });
    return this;
  };
}

/** A rectangle that is given its size later begins with none, and is not asked which it has. */
function beginWithNoSize(drawing: Drawing): void {
  const { rect } = drawing;
  drawing.rect = function (width = 0, height = 0) {
    return rect.call(this, width, height);
  };
}

/** With nothing that moves, hidden labels are shown after each mark: each of them once, and not all of them again. */
function showOnce(animations: Animations): void {
  const showAll = animations.showDelayedElements;
  animations.showDelayedElements = function () {
    showAll.call(this);
    this.w.globals.delayedElements = [];
  };
}

/** The legend is ours: the library gives its own a style sheet for each chart, for which the whole page is styled again. */
interface Legend {
  readonly legendHelpers: { appendToForeignObject(): void };
}

interface Rect extends Size {
  readonly x: number;
  readonly y: number;
}

/** Where the library works out how much room a plot has. */
interface Dimensions {
  readonly dimHelpers: { readonly dCtx: { lgRect: Rect }; getLegendsRect(): Rect };
}

/** A legend that is not shown takes no room, which the page need not be asked. */
function leaveLegendOut(legend: Legend, { dimHelpers }: Dimensions): void {
  Object.getPrototypeOf(legend.legendHelpers).appendToForeignObject = () => {};
  Object.getPrototypeOf(dimHelpers).getLegendsRect = function (this: typeof dimHelpers) {
    this.dCtx.lgRect = { x: 0, y: 0, width: 0, height: 0 };
    return this.dCtx.lgRect;
  };
}

/** A drawing, as far as the library takes it apart. */
interface Paper {
  each(visit: () => void, deeply?: boolean): Paper;
  clear(): Paper;
}

/** Takes a chart from the page. What listens on its shapes goes with them: the library would visit each one. */
export function removeQuickly(chart: ApexCharts): void {
  const { w } = chart as ApexCharts & {
    readonly w: { readonly globals: { readonly dom: { Paper?: Paper } } };
  };
  const paper = w.globals.dom.Paper;
  if (paper) {
    paper.each = () => paper;
    paper.clear = () => paper;
  }
  chart.destroy();
}

let isDone = false;

/** Has the charts' library ask the page no more than it must, and do nothing over and over, from its first chart on. */
export function drawQuickly(chart: ApexCharts): void {
  if (isDone) return;
  isDone = true;
  const { graphics, animations, legend, dimensions } = chart as ApexCharts & {
    readonly graphics?: Graphics;
    readonly animations?: Animations;
    readonly legend?: Legend;
    readonly dimensions?: Dimensions;
  };
  if (graphics) measureOnCanvas(Object.getPrototypeOf(graphics));
  if (animations) showOnce(Object.getPrototypeOf(animations));
  if (legend && dimensions) leaveLegendOut(legend, dimensions);
  const { SVG } = globalThis as { SVG?: () => Drawing };
  const drawing = SVG?.();
  if (!drawing) return;
  placeSingleLines(Object.getPrototypeOf(drawing.text('')));
  beginWithNoSize(Object.getPrototypeOf(drawing));
}
