import { type FloatImage, grow, intersect } from '../../../raster';
import { point, solveMembrane } from '../../../solve';
import type { ShiftMap } from '../cut/seam-cut';
import { boxOfTargets, role } from '../frame';

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
 *  @returns frame size ×4 float32, to be added; 0 outside the hole
 */
export function correctionField(image: FloatImage, roles: Uint8Array, map: ShiftMap): Float32Array {
  const { w, h } = image.rect;
  const field = new Float32Array(w * h * 4);
  // Only the area itself, with its rim, is solved for.
  const box = intersect(grow(boxOfTargets(roles, w), 1), { x: 0, y: 0, w, h });
  const kind = new Uint8Array(box.w * box.h);
  const source = new Float32Array(box.w * box.h * 4);
  const values = new Float32Array(box.w * box.h * 4);
  const { data } = image;
  const colourAt = (i: number): Colour => [data[i], data[i + 1], data[i + 2]];
  const jumps = new Jumps();
  const rim = map.shifts.length;
  const [across, down] = [w, h].map((side) => Math.ceil(side / stretchPx));
  /** The number of the stretch that a link belongs to: from one label to another, or to the rim, in one square. */
  const stretchAt = (x: number, y: number, from: number, to: number) =>
    ((from * (rim + 1) + to) * down + Math.floor(y / stretchPx)) * across + Math.floor(x / stretchPx);
  const isKnown = (i: number) => roles[i] === role.context || roles[i] === role.source;
  const known = (x: number, y: number) => x >= 0 && y >= 0 && x < w && y < h && isKnown(y * w + x);
  for (let y = box.y; y < box.y + box.h; y++)
    for (let x = box.x; x < box.x + box.w; x++) {
      const p = y * w + x;
      const k = (y - box.y) * box.w + x - box.x;
      kind[k] = roles[p] === role.target ? point.free : isKnown(p) ? point.fixed : point.away;
      if (roles[p] !== role.target) continue;
      const a = map.shifts[map.label[p]];
      for (let d = 0; d < 4; d++) {
        const qx = x + (d === 0 ? -1 : d === 1 ? 1 : 0);
        const qy = y + (d === 2 ? -1 : d === 3 ? 1 : 0);
        if (qx < 0 || qy < 0 || qx >= w || qy >= h) continue;
        const q = qy * w + qx;
        const inside = roles[q] === role.target;
        if (inside ? map.label[q] === map.label[p] : !isKnown(q)) continue;
        const atQ = 4 * (q + a.dy * w + a.dx);
        const goesOn = known(qx + a.dx, qy + a.dy);
        if (!inside) {
          // What the piece would have there, less what is there.
          if (!goesOn) continue;
          const [mine, there] = [colourAt(atQ), colourAt(4 * q)];
          const jump: Colour = [mine[0] - there[0], mine[1] - there[1], mine[2] - there[2]];
          jumps.add(k, jump, stretchAt(x, y, map.label[p], rim), mine, there, 'at the rim');
          continue;
        }
        const b = map.shifts[map.label[q]];
        const comesFrom = known(x + b.dx, y + b.dy);
        if (!goesOn && !comesFrom) continue;
        const [ownP, ownQ, atP] = [
          4 * (p + a.dy * w + a.dx),
          4 * (q + b.dy * w + b.dx),
          4 * (p + b.dy * w + b.dx),
        ];
        const jump: Colour = [0, 0, 0];
        for (let c = 0; c < 3; c++) {
          let sum = 0;
          if (goesOn) sum += data[atQ + c] - data[ownP + c];
          if (comesFrom) sum += data[ownQ + c] - data[atP + c];
          const wanted = goesOn && comesFrom ? sum / 2 : sum;
          jump[c] = wanted - (data[ownQ + c] - data[ownP + c]);
        }
        const stretch = stretchAt(x, y, map.label[p], map.label[q]);
        jumps.add(k, jump, stretch, colourAt(ownP), colourAt(ownQ), 'between pieces');
      }
    }
  jumps.takeOff(source);
  solveMembrane(box.w, box.h, kind, values, { source, tolerance: 4e-4 });
  for (let y = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++) {
      const k = 4 * (y * box.w + x);
      if (kind[k >> 2] !== point.free) continue;
      const p = 4 * ((box.y + y) * w + box.x + x);
      const grey = (values[k] + values[k + 1] + values[k + 2]) / 3;
      for (let c = 0; c < 3; c++)
        field[p + c] = within(grey + within(values[k + c] - grey, mostTint.ofAll), mostCorrection);
    }
  return field;
}

const within = (v: number, most: number): number => Math.max(-most, Math.min(most, v));

type Colour = [red: number, green: number, blue: number];

/** The jumps at the links across joins, and what lies on both sides of each stretch of a join. */
class Jumps {
  private readonly links: { readonly at: number; readonly jump: Colour; readonly stretch: Stretch }[] = [];
  private readonly stretches = new Map<number, Stretch>();

  /** @param at  the link's point of the grid
   *  @param number  of the stretch of a join that it belongs to
   *  @param mine, there  colours on its two sides
   *  @param where  the stretch lies */
  add(at: number, jump: Colour, number: number, mine: Colour, there: Colour, where: Stretch['where']): void {
    let stretch = this.stretches.get(number);
    if (!stretch) {
      stretch = { where, mine: [0, 0, 0], there: [0, 0, 0], jump: [0, 0, 0], links: 0 };
      this.stretches.set(number, stretch);
    }
    for (let c = 0; c < 3; c++) {
      stretch.mine[c] += mine[c];
      stretch.there[c] += there[c];
      stretch.jump[c] += jump[c];
    }
    stretch.links++;
    this.links.push({ at, jump, stretch });
  }

  /** Takes the jumps, as far as they are tone steps, off what the field has to make up for at each point. */
  takeOff(source: Float32Array): void {
    for (const { at, jump, stretch } of this.links) {
      const taken = falling(sharesApart(stretch), shares.one, shares.two) * stepShare(stretch);
      if (taken === 0) continue;
      const colour = stretch.mine.map((v, c) => v + stretch.there[c]);
      const light =
        (jump[0] * colour[0] + jump[1] * colour[1] + jump[2] * colour[2]) /
        Math.max(1e-9, colour[0] ** 2 + colour[1] ** 2 + colour[2] ** 2);
      for (let c = 0; c < 3; c++) {
        const lit = light * colour[c];
        const tint = within(jump[c] - lit, mostTint.ofJump);
        source[4 * at + c] -= taken * within(lit + tint, mostJump);
      }
    }
  }
}

interface Stretch {
  readonly where: 'at the rim' | 'between pieces';
  readonly mine: Colour;
  readonly there: Colour;
  readonly jump: Colour;
  links: number;
}

/** 1 up to the first value, 0 from the second on. */
const falling = (v: number, from: number, to: number): number =>
  Math.max(0, Math.min(1, (to - v) / (to - from)));

/** How much of a stretch's jumps is a tone step and no edge. */
function stepShare({ where, jump, links }: Stretch): number {
  if (where === 'at the rim') return 1;
  return falling(Math.max(...jump.map(Math.abs)) / links, jumpSizes.step, jumpSizes.edge);
}

/** How much the shares of red, green and blue differ between the two sides at most. */
function sharesApart({ mine, there, links }: Stretch): number {
  const sharesOf = (sum: Colour) => {
    const raised = sum.map((v) => v / links + floor);
    return raised.map((v) => v / (raised[0] + raised[1] + raised[2]));
  };
  const [a, b] = [sharesOf(mine), sharesOf(there)];
  return Math.max(...a.map((v, c) => Math.abs(v - b[c])));
}
