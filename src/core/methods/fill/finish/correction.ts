import { type FloatImage, grow, intersect, makeFloatImage, type Rect } from '../../../raster';
import { point, solveMembrane } from '../../../solve';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets, isKnownRole, role, sides } from '../frame';

/** One jump is at most this large, and so is the whole correction (of full scale): beyond it lies an edge, not a tone step. */
const mostJump = 40 / 255;
const mostCorrection = 60 / 255;
/** Light makes colours lighter or darker in proportion; what else there is to a jump is tint. One jump has at most so much of it, and
 *  the whole correction: at a corner where several grounds meet it would add up to a glow. */
const mostTint = { ofJump: 12 / 255, ofAll: 8 / 255 };
/** Along a stretch of so many pixels of a join, its two sides lie in one ground, in more or less light, when the shares of red, green
 *  and blue in their colours differ by no more than the first of these; from the second on, two grounds meet, and neither is to be
 *  tinted by the other. */
const stretchPx = 32;
const shares = { one: 0.06, two: 0.12 };
/** Of full scale, in the mean of a stretch and the channel with most of it: smaller jumps between pieces are tone steps, and from the
 *  second on they are where one thing ends before another, which must not be smeared into either. At the rim a step would show. */
const jumpSizes = { step: 25 / 255, edge: 45 / 255 };
/** Of full scale, added to every channel: the shares of dark colours are chance. */
const floor = 0.05;

/** The smooth field that takes the steps out of a picture pieced together from shifted parts.
 *
 *  At every link across a join the wanted step is the mean of the sources' own steps there; what the pieces show beyond
 *  that is the jump. The field takes the jumps up and is otherwise as flat as can be (Poisson's equation, 0 on the known
 *  rim). Where two grounds of different colour meet, or of very different light, there is nothing to take up. As a
 *  correction of the copied pixels, it leaves their grain and sharpness untouched.
 *  Source: Pérez, Gangnet & Blake 2003, doi:10.1145/1201775.882269; mean of gradients at joins as in Darabi et al. 2012,
 *  doi:10.1145/2185520.2185578, section 4; the clipping is ours.
 *
 *  @param image  the frame's pixels; those of targets are not read
 *  @param roles  frame size: {@link role}
 *  @returns of the hole and two pixels all round it, in frame pixels: to be added; 0 outside the hole
 */
export function correctionField(image: FloatImage, roles: Uint8Array, map: ShiftMap): FloatImage {
  const { w, h } = image.rect;
  // Only the area itself, with its rim, is solved for.
  const box = intersect(grow(boxOfTargets(roles, w), 1), { x: 0, y: 0, w, h });
  const kind = kindsIn(box, roles, w);
  const source = new Float32Array(box.w * box.h * 4);
  const values = new Float32Array(box.w * box.h * 4);
  const jumps = new Jumps(image.data);
  for (let y = 0, k = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, k++)
      if (kind[k] === point.free) jumps.look(image.rect, roles, map, box.x + x, box.y + y, k);
  jumps.takeOff(source);
  solveMembrane(box.w, box.h, kind, values, { source, tolerance: 4e-4 });
  const field = makeFloatImage(intersect(grow(box, 1), { x: 0, y: 0, w, h }));
  putClipped(values, kind, box, field);
  return field;
}

/** What the solver is told of each pixel of a box. */
function kindsIn(box: Rect, roles: Uint8Array, w: number): Uint8Array {
  const kind = new Uint8Array(box.w * box.h);
  for (let y = 0, k = 0; y < box.h; y++)
    for (let x = 0, p = (box.y + y) * w + box.x; x < box.w; x++, k++, p++)
      kind[k] = roles[p] === role.target ? point.free : isKnownRole(roles[p]) ? point.fixed : point.away;
  return kind;
}

/** Writes the solution for the pixels that are to be filled, within what a correction may be. */
function putClipped(values: Float32Array, kind: Uint8Array, box: Rect, { rect, data }: FloatImage): void {
  for (let y = 0, k = 0; y < box.h; y++)
    for (
      let x = 0, p = 4 * ((box.y + y - rect.y) * rect.w + box.x - rect.x);
      x < box.w;
      x++, k += 4, p += 4
    ) {
      if (kind[k >> 2] !== point.free) continue;
      const grey = (values[k] + values[k + 1] + values[k + 2]) / 3;
      for (let c = 0; c < 3; c++)
        data[p + c] = within(grey + within(values[k + c] - grey, mostTint.ofAll), mostCorrection);
    }
}

const within = (v: number, most: number): number => Math.max(-most, Math.min(most, v));

/** The jumps at the links across joins, and what lies on both sides of each stretch of a join. */
class Jumps {
  /** Of each link: the point of the grid, the number of the stretch that it belongs to, and the jump's three channels. */
  private readonly points: number[] = [];
  private readonly stretches: number[] = [];
  private readonly jumps: number[] = [];
  /** Numbers of the stretches: from one label to another, or to the rim, in one square. */
  private readonly numbers = new Map<number, number>();
  /** Of each stretch: red, green and blue on its one side, on the other, and of the jumps, summed. */
  private readonly sums: number[] = [];
  private readonly links: number[] = [];
  private readonly atRim: boolean[] = [];

  constructor(private readonly data: Float32Array) {}

  /** Takes in the links from a pixel that is to be filled, where they lead across a join. @param at  the pixel's point of the grid */
  look(
    { w, h }: Rect,
    roles: Uint8Array,
    { shifts, label }: ShiftMap,
    x: number,
    y: number,
    at: number,
  ): void {
    const { data } = this;
    const p = y * w + x;
    const own = label[p];
    const a = shifts[own];
    const rim = shifts.length;
    for (let d = 0; d < 4; d++) {
      const qx = x + sides[d][0];
      const qy = y + sides[d][1];
      if (qx < 0 || qy < 0 || qx >= w || qy >= h) continue;
      const q = qy * w + qx;
      const inside = roles[q] === role.target;
      if (inside ? label[q] === own : !isKnownRole(roles[q])) continue;
      const shiftA = a.dy * w + a.dx;
      const atQ = 4 * (q + shiftA);
      const goesOn = isIn(qx + a.dx, qy + a.dy, w, h) && isKnownRole(roles[q + shiftA]);
      const square = Math.floor(y / stretchPx) * Math.ceil(w / stretchPx) + Math.floor(x / stretchPx);
      const squares = Math.ceil(h / stretchPx) * Math.ceil(w / stretchPx);
      const other = inside ? label[q] : rim;
      const number = (own * (rim + 1) + other) * squares + square;
      if (!inside) {
        // What the piece would have there, less what is there.
        if (!goesOn) continue;
        for (let c = 0; c < 3; c++) this.jumps.push(data[atQ + c] - data[4 * q + c]);
        this.add(at, number, atQ, 4 * q, true);
        continue;
      }
      const b = shifts[other];
      const shiftB = b.dy * w + b.dx;
      const comesFrom = isIn(x + b.dx, y + b.dy, w, h) && isKnownRole(roles[p + shiftB]);
      if (!goesOn && !comesFrom) continue;
      const ownP = 4 * (p + shiftA);
      const ownQ = 4 * (q + shiftB);
      const atP = 4 * (p + shiftB);
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        if (goesOn) sum += data[atQ + c] - data[ownP + c];
        if (comesFrom) sum += data[ownQ + c] - data[atP + c];
        const wanted = goesOn && comesFrom ? sum / 2 : sum;
        this.jumps.push(wanted - (data[ownQ + c] - data[ownP + c]));
      }
      this.add(at, number, ownP, ownQ, false);
    }
  }

  /** Takes in a link whose jump was just noted. @param mine, there  where the colours on its two sides are */
  private add(at: number, number: number, mine: number, there: number, isAtRim: boolean): void {
    const { data, sums, jumps } = this;
    let stretch = this.numbers.get(number);
    if (stretch === undefined) {
      stretch = this.numbers.size;
      this.numbers.set(number, stretch);
      for (let c = 0; c < 9; c++) sums.push(0);
      this.links.push(0);
      this.atRim.push(isAtRim);
    }
    for (let c = 0; c < 3; c++) {
      sums[9 * stretch + c] += data[mine + c];
      sums[9 * stretch + 3 + c] += data[there + c];
      sums[9 * stretch + 6 + c] += jumps[jumps.length - 3 + c];
    }
    this.links[stretch]++;
    this.points.push(at);
    this.stretches.push(stretch);
  }

  /** Takes the jumps, as far as they are tone steps, off what the field has to make up for at each point. */
  takeOff(source: Float32Array): void {
    const { sums, jumps } = this;
    const shareOf = this.links.map((_, stretch) => this.toneShare(stretch));
    for (let k = 0; k < this.points.length; k++) {
      const stretch = this.stretches[k];
      const taken = shareOf[stretch];
      if (taken === 0) continue;
      const s = 9 * stretch;
      const red = sums[s] + sums[s + 3];
      const green = sums[s + 1] + sums[s + 4];
      const blue = sums[s + 2] + sums[s + 5];
      const light =
        (jumps[3 * k] * red + jumps[3 * k + 1] * green + jumps[3 * k + 2] * blue) /
        Math.max(1e-9, red ** 2 + green ** 2 + blue ** 2);
      for (let c = 0; c < 3; c++) {
        const lit = light * (c === 0 ? red : c === 1 ? green : blue);
        const tint = within(jumps[3 * k + c] - lit, mostTint.ofJump);
        source[4 * this.points[k] + c] -= taken * within(lit + tint, mostJump);
      }
    }
  }

  /** How much of a stretch's jumps is a tone step and no edge, in one ground. */
  private toneShare(stretch: number): number {
    const links = this.links[stretch];
    const [mine, there, jump] = [0, 3, 6].map((c) => this.sums.slice(9 * stretch + c, 9 * stretch + c + 3));
    const ofGround = falling(sharesApart(mine, there, links), shares.one, shares.two);
    if (this.atRim[stretch]) return ofGround;
    return ofGround * falling(Math.max(...jump.map(Math.abs)) / links, jumpSizes.step, jumpSizes.edge);
  }
}

const isIn = (x: number, y: number, w: number, h: number): boolean => x >= 0 && y >= 0 && x < w && y < h;

/** 1 up to the first value, 0 from the second on. */
const falling = (v: number, from: number, to: number): number =>
  Math.max(0, Math.min(1, (to - v) / (to - from)));

/** How much the shares of red, green and blue differ between the two sides at most; both are sums of so many. */
function sharesApart(mine: readonly number[], there: readonly number[], links: number): number {
  const sharesOf = (sum: readonly number[]) => {
    const raised = sum.map((v) => v / links + floor);
    return raised.map((v) => v / (raised[0] + raised[1] + raised[2]));
  };
  const [a, b] = [sharesOf(mine), sharesOf(there)];
  return Math.max(...a.map((v, c) => Math.abs(v - b[c])));
}
