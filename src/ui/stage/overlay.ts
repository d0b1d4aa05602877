/** What is drawn over the picture in plain lines: the staff, measures, what a tool is about to do. */
import type { Stage } from './stage';

/** A line between two world places, with words in its middle; `live` while it is being drawn. */
export interface DrawnLine {
  readonly from: readonly number[];
  readonly to: readonly number[];
  readonly text: string;
  readonly live?: boolean;
}

/** A thread from a world place to the edge of the picture, where a list goes on from it. */
export interface Leader {
  readonly at: readonly number[];
  readonly edge: 'left' | 'right';
  /** Where it meets the edge, pixels of the page from its top. */
  readonly y: number;
  /** A colour of the house. */
  readonly colour: string;
  readonly strong: boolean;
}

/** What a tool, or a room, draws over the picture. The box is in pixels of the canvas. */
export interface Drawing {
  readonly leaders?: readonly Leader[];
  readonly lines?: readonly DrawnLine[];
  /** A ring around a world place. */
  readonly ring?: readonly number[] | null;
  readonly rings?: readonly (readonly number[])[];
  /** A circle of so many metres round a world place, as it is seen. */
  readonly circle?: { readonly at: readonly number[]; readonly radius: number } | null;
  readonly box?: readonly [number, number, number, number] | null;
}

/** Something that draws over the picture, and says when it would draw otherwise. */
export interface DrawingSource {
  draw(): Drawing;
  /** Returns what ends the listening. */
  listen(changed: () => void): () => void;
}

export interface Staff {
  /** Of the brief's unit in a metre. */
  readonly perMetre: number;
  /** Height wanted, and how far it may be off, metres; null where the brief wants none. */
  readonly target: number | null;
  readonly tolerance: number;
  /** Height of the crown, metres; null for no body. */
  readonly top: number | null;
  readonly text: string;
  /** The side of the known box, in words. */
  readonly boxText: string;
}

type Attributes = Readonly<Record<string, string | number>>;

/** Width of a letter of the typewriter face, pixels. */
const LETTER = 7.4;

const STEPS = [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500];

const MONO = { 'font-family': 'var(--font-mono)', fill: 'var(--ink)', 'font-size': 12 };

/** Draws all that lies over the picture anew. */
export class Overlay {
  /** Elements of the picture that is being drawn. */
  private used = 0;

  constructor(
    private readonly svg: SVGSVGElement,
    private readonly stage: Stage,
  ) {}

  draw(staff: Staff | null, lines: readonly DrawnLine[], ...drawings: readonly Drawing[]): void {
    this.used = 0;
    const top = drawings.some((drawing) => drawing.leaders) ? this.svg.getBoundingClientRect().top : 0;
    for (const { leaders } of drawings) for (const leader of leaders ?? []) this.leader(leader, top);
    if (staff) this.staff(staff);
    for (const line of lines) this.line(line);
    for (const drawing of drawings) for (const line of drawing.lines ?? []) this.line(line);
    const { knownBoxAt } = this.stage;
    if (knownBoxAt && staff) {
      const [x, y] = this.stage.rig.project(...knownBoxAt);
      this.word(x, y - 14, staff.boxText);
    }
    for (const { ring, rings, box, circle } of drawings) {
      if (circle) this.circle(circle);
      for (const at of rings ?? []) this.ring(at);
      if (ring) this.ring(ring);
      if (box) this.box(box);
    }
    while (this.svg.children.length > this.used) this.svg.lastElementChild?.remove();
  }

  /** The next element of the picture: the one of the picture before, where it is of the same kind. */
  private add(name: string, attributes: Attributes, text = ''): void {
    const before = this.svg.children[this.used++] as SVGElement | undefined;
    const isSame = before?.tagName === name && before.attributes.length === Object.keys(attributes).length;
    const element = isSame ? before : document.createElementNS('http://www.w3.org/2000/svg', name);
    for (const [key, attribute] of Object.entries(attributes)) {
      const value = typeof attribute === 'number' ? String(Math.round(attribute * 100) / 100) : attribute;
      if (element.getAttribute(key) !== value) element.setAttribute(key, value);
    }
    if (element.textContent !== text) element.textContent = text;
    if (isSame) return;
    if (before) before.replaceWith(element);
    else this.svg.append(element);
  }

  /** Words on a slip of paper. */
  private word(x: number, y: number, text: string, anchor: 'middle' | 'start' = 'middle'): void {
    const width = text.length * LETTER + 12;
    const left = anchor === 'middle' ? x - width / 2 : x;
    this.add('rect', {
      x: left,
      y: y - 10,
      width,
      height: 19,
      rx: 4,
      fill: 'var(--sheet)',
      stroke: 'var(--rule)',
    });
    this.add('text', { ...MONO, x: left + 6, y: y + 3.5 }, text);
  }

  private line({ from, to, text, live }: DrawnLine): void {
    const ends = [from, to].map((points) => this.stage.rig.project(points[0], points[1], points[2]));
    const [[x1, y1], [x2, y2]] = ends;
    const dashes: Attributes = live ? { 'stroke-dasharray': '5 4' } : {};
    this.add('line', { x1, y1, x2, y2, stroke: 'var(--damson)', 'stroke-width': 1.6, ...dashes });
    for (const [cx, cy] of ends) this.dot(cx, cy);
    if (text) this.word((x1 + x2) / 2, (y1 + y2) / 2, text);
  }

  private dot(cx: number, cy: number, radius = 4): void {
    this.add('circle', {
      cx,
      cy,
      r: radius,
      fill: 'var(--sheet)',
      stroke: 'var(--damson)',
      'stroke-width': 1.8,
    });
  }

  /** A thread that leaves the joint gently and meets the edge level; none where it would leave the picture. */
  private leader({ at, edge, y, colour, strong }: Leader, top: number): void {
    const { clientWidth: width, clientHeight: height } = this.svg;
    const [x1, y1] = this.stage.rig.project(at[0], at[1], at[2]);
    const x2 = edge === 'left' ? 0 : width;
    // What is chosen is led as near to its row as the picture goes.
    const y2 = strong ? Math.min(height, Math.max(0, y - top)) : y - top;
    if (y2 < 0 || y2 > height || x1 < 0 || x1 > width || y1 < 0 || y1 > height) return;
    const bend = (x2 - x1) * 0.5;
    const curve = [x1, y1, x1 + bend, y1, x2 - bend, y2, x2, y2].map((value) => value.toFixed(1));
    this.add('path', {
      d: `M${curve[0]} ${curve[1]}C${curve.slice(2).join(' ')}`,
      fill: 'none',
      stroke: colour,
      'stroke-width': strong ? 2 : 1.1,
      opacity: strong ? 1 : 0.75,
    });
    this.add('circle', {
      cx: x1,
      cy: y1,
      r: strong ? 4 : 2.6,
      fill: 'var(--sheet)',
      stroke: colour,
      'stroke-width': 1.5,
    });
  }

  private ring(at: readonly number[]): void {
    const [cx, cy] = this.stage.rig.project(at[0], at[1], at[2]);
    this.add('circle', { cx, cy, r: 9, fill: 'none', stroke: 'var(--damson)', 'stroke-width': 2 });
  }

  private circle({ at, radius }: NonNullable<Drawing['circle']>): void {
    const { rig } = this.stage;
    const [cx, cy] = rig.project(at[0], at[1], at[2]);
    const beside = rig.unproject(cx + 100, cy, at);
    const metres = Math.hypot(beside[0] - at[0], beside[1] - at[1], beside[2] - at[2]);
    const pixels = metres > 0 ? (radius / metres) * 100 : 0;
    this.add('circle', { cx, cy, r: pixels, fill: 'none', stroke: 'var(--ink)', 'stroke-width': 1.4 });
    this.add('circle', {
      cx,
      cy,
      r: Math.max(0, pixels - 1.5),
      fill: 'none',
      stroke: 'var(--sheet)',
      'stroke-width': 1,
    });
  }

  private box([x0, y0, x1, y1]: readonly [number, number, number, number]): void {
    this.add('rect', {
      x: Math.min(x0, x1),
      y: Math.min(y0, y1),
      width: Math.abs(x1 - x0),
      height: Math.abs(y1 - y0),
      fill: 'var(--damson)',
      'fill-opacity': 0.1,
      stroke: 'var(--damson)',
      'stroke-dasharray': '5 4',
    });
  }

  /**
   * The height staff: a drawn rule beside the figure in the brief's unit, with the band that the brief wants
   * and a thread to the crown.
   */
  private staff(staff: Staff): void {
    const { bounds, rig } = this.stage;
    const size = bounds.max.y - bounds.min.y;
    const x = Math.min(bounds.min.x - size * 0.1, -size * 0.32);
    const at = (y: number) => rig.project(x, y, 0);
    const top = Math.max(bounds.max.y, (staff.target ?? 0) + staff.tolerance);
    const span = top * staff.perMetre;
    const major = STEPS.find((step) => span / step <= 5) ?? 1000;
    const last = Math.ceil(span / major) * major;
    const [x1, y1] = at(0);
    const [x2, y2] = at(last / staff.perMetre);
    if (Math.hypot(x2 - x1, y2 - y1) < 30) return;
    if (staff.target !== null) this.wantedBand(staff, staff.target, major, at);
    this.add('line', { x1, y1, x2, y2, stroke: 'var(--ink)', 'stroke-width': 1.2 });
    for (let i = 0; i <= Math.round(last / major) * 10; i++)
      this.tick(at((i * major) / 10 / staff.perMetre), i, (i * major) / 10);
    if (staff.top !== null) this.crown(at(staff.top), rig.project(0, staff.top, 0), staff.text);
  }

  private wantedBand(
    { perMetre, tolerance }: Staff,
    target: number,
    major: number,
    at: (y: number) => [number, number],
  ): void {
    const [x, low] = at(target - tolerance);
    const [, high] = at(target + tolerance);
    this.add('rect', {
      x: x - 10,
      y: high,
      width: 20,
      height: Math.max(2, low - high),
      fill: 'var(--leaf)',
      opacity: 0.24,
    });
    // Beside a number of the staff the word steps aside for it.
    const middle = (low + high) / 2;
    const near = Math.round((target * perMetre) / major) * major;
    const [, ny] = at(near / perMetre);
    const aside = Math.abs(ny - middle) < 11 ? 10 + String(Number(near.toFixed(3))).length * 7 : 14;
    const face = { 'font-size': 11, 'font-weight': 600, 'font-family': 'var(--font-sans)' };
    const place = { x: x - aside, y: middle + 4, 'text-anchor': 'end' };
    this.add('text', { ...place, ...face, fill: 'var(--leaf)' }, 'brief');
  }

  private tick([x, y]: [number, number], i: number, value: number): void {
    const isWhole = i % 10 === 0;
    const half = i % 5 === 0 ? 7 : 4;
    const long = isWhole ? 11 : half;
    const width = isWhole ? 1.2 : 0.8;
    this.add('line', { x1: x, y1: y, x2: x + long, y2: y, stroke: 'var(--ink)', 'stroke-width': width });
    if (!isWhole) return;
    const place = { x: x - 8, y: y + 4, 'text-anchor': 'end' };
    this.add(
      'text',
      { ...MONO, ...place, fill: 'var(--soft)', 'font-size': 11 },
      String(Number(value.toFixed(3))),
    );
  }

  private crown([x1, y1]: [number, number], [x2, y2]: [number, number], text: string): void {
    const thread = { stroke: 'var(--damson)', 'stroke-width': 1.2, 'stroke-dasharray': '3 3' };
    this.add('line', { x1, y1, x2, y2, ...thread });
    this.word(x1 + 16, y1 - 12, text, 'start');
  }
}
