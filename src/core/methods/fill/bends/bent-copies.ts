import { type FloatImage, grow, intersect, makeFloatImage, type Rect, sampleSharp } from '../../../raster';
import type { Shift, ShiftMap } from '../cut/seam-cut';
import { role, sourcesOf } from '../frame';
import { BendGrid } from './bend-grid';
import { type LineFit, lineFitter } from './line-fit';
import { joinsOf, type Parts, partsOf } from './parts';
import { worseJoins } from './worse-joins';

/** Bends below this are none, in pixels. */
const leastBendPx = 0.15;
/** Copies go on so far beyond their part, for what looks across joins. */
const roomPx = 5;
/** Between the picture and the copies nothing is known. */
const gapPx = 32;
const noShift: Shift = { dx: 0, dy: 0 };
/** Held as firmly as a clear line where it is. */
const stays: LineFit = { isOff: false, x: 0, y: 0, xx: 6, xy: 0, yy: 6 };

/** A picture with bent copies of parts below it: what is taken from a copy is then just a shift away. */
export interface BentCopies {
  readonly image: FloatImage;
  readonly roles: Uint8Array;
  readonly map: ShiftMap;
  /** The pixel of the picture that one of image was taken from: itself, or for a copy the nearest of those it was made of. */
  originOf(x: number, y: number): readonly [x: number, y: number];
}

/** Bends what is copied by a few pixels so that lines run on across joins: joints of boards, courses of brick, edges. A seam cut can only
 *  choose where to join; two boards that are a little wider, or converge a little, leave a jog at every joint.
 *  Nothing is bent where that would bring in what the cut had left out ({@link worseJoins}).
 *
 *  @param image  the frame's pixels; those of targets are not read
 *  @param roles  frame size: {@link role}. Nothing but sources goes into a copy
 *  @returns null where all lines meet as they are
 *  Where nothing is bent pixels stay exact copies; bent ones are resampled once.
 *  Cost: O(length of the joins + area). Source: {@link BendGrid}.
 */
export function bentCopies(image: FloatImage, roles: Uint8Array, map: ShiftMap): BentCopies | null {
  const { rect } = image;
  const parts = partsOf(roles, map, rect.w);
  const bends = bendsOf(image, roles, map, parts);
  if (!bends) return null;
  const { w, h } = rect;
  const from = h + gapPx;
  const places = placesOf(parts, bends, rect, from);
  if (places.length === 0) return null;
  const height = Math.max(...places.map(({ top, wide }) => top + wide.h));
  const out = makeFloatImage({ ...rect, h: height });
  out.data.set(image.data);
  const outRoles = new Uint8Array(w * height);
  outRoles.set(roles);
  const label = new Int32Array(w * height).fill(-1);
  label.set(map.label);
  const shifts = map.shifts.slice();
  const origin = new Int32Array(2 * w * (height - from));
  const usable = sourcesOf(roles);
  for (const place of places) {
    const own = shifts.push({ dx: place.left - place.wide.x, dy: place.top - place.wide.y }) - 1;
    const nearest = nearestOf(parts, place.part, place.wide);
    copyBent(
      image,
      usable,
      map,
      parts,
      place,
      nearest,
      bends,
      { image: out, roles: outRoles, origin, from },
      {
        label,
        own,
      },
    );
  }
  return {
    image: out,
    roles: outRoles,
    map: { shifts, label },
    originOf: (x, y) => {
      if (y < from) return [x, y];
      const at = 2 * ((y - from) * w + x);
      return [origin[at], origin[at + 1]];
    },
  };
}

/** Makes the copy of a part.
 *  @param nearest  as {@link nearestOf} gives it
 *  @param to       where copies go; origins are told of the rows from one on
 *  @param named    the part's own pixels get this label */
function copyBent(
  image: FloatImage,
  usable: Uint8Array,
  map: ShiftMap,
  { box, labels }: Parts,
  { part, wide, left, top }: Place,
  nearest: Int32Array,
  bends: Float32Array,
  to: { image: FloatImage; roles: Uint8Array; origin: Int32Array; from: number },
  named: { label: Int32Array; own: number },
): void {
  const { w, h } = image.rect;
  const { dx, dy } = map.shifts[labels[part]];
  for (let y = 0, i = 0; y < wide.h; y++)
    for (let x = 0; x < wide.w; x++, i++) {
      const k = nearest[i];
      if (k < 0) continue;
      const px = wide.x + x;
      const py = wide.y + y;
      const isOwn = box.x + (k % box.w) === px && box.y + Math.floor(k / box.w) === py;
      if (isOwn) named.label[py * w + px] = named.own;
      const bx = bends[2 * k];
      const by = bends[2 * k + 1];
      const isFar = Math.max(Math.abs(bx), Math.abs(by)) >= leastBendPx;
      let sx = px + dx + (isFar ? bx : 0);
      let sy = py + dy + (isFar ? by : 0);
      let ox = Math.round(sx);
      let oy = Math.round(sy);
      if (ox < 0 || oy < 0 || ox >= w || oy >= h || !usable[oy * w + ox]) {
        if (!isOwn) continue;
        // A bend that leads off what may be drawn from is left out.
        sx = ox = px + dx;
        sy = oy = py + dy;
      }
      const q = (top + y) * w + left + x;
      sampleSharp(image, sx, sy, usable, to.image.data, 4 * q);
      to.roles[q] = role.source;
      to.origin[2 * (q - to.from * w)] = ox;
      to.origin[2 * (q - to.from * w) + 1] = oy;
    }
}

/** Of the area's box, x and y for each pixel: where it is taken from, seen from where its shift would take it. Null: no line misses. */
function bendsOf(image: FloatImage, roles: Uint8Array, map: ShiftMap, parts: Parts): Float32Array | null {
  const fitAt = lineFitter(image, roles);
  const shiftOf = (part: number | null) => (part === null ? noShift : map.shifts[parts.labels[part]]);
  const joins = joinsOf(parts, roles, image.rect);
  const fits = joins.map(({ x, y, part, other }) => fitAt(x, y, shiftOf(part), shiftOf(other)));
  if (!fits.some((fit) => fit?.isOff)) return null;
  const steps = stepsOf(image, map, parts);
  for (;;) {
    const grid = new BendGrid(parts, steps);
    joins.forEach(({ x, y, part, other }, k) => {
      const [u, v] = [x - parts.box.x, y - parts.box.y];
      const fit = fits[k];
      if (fit === stays) for (const one of [part, other]) grid.hold(u, v, one, null, stays);
      else if (fit) grid.hold(u, v, part, other, fit);
    });
    const bends = grid.settle();
    const worse = worseJoins(image, roles, map, parts, joins, bends).filter((k) => fits[k] !== stays);
    if (worse.length === 0) return bends;
    for (const k of worse) fits[k] = stays;
  }
}

/** The squared steps of brightness across and down where each pixel of the area's box is copied from, in squared 8-bit steps. */
function stepsOf(
  { rect: { w, h }, data }: FloatImage,
  { shifts }: ShiftMap,
  { box, number, labels }: Parts,
): Float32Array {
  const steps = new Float32Array(number.length * 2);
  const luma = (p: number) => 63.75 * (data[4 * p] + 2 * data[4 * p + 1] + data[4 * p + 2]);
  for (let y = 0, i = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, i++) {
      if (number[i] < 0) continue;
      const { dx, dy } = shifts[labels[number[i]]];
      const sx = box.x + x + dx;
      const sy = box.y + y + dy;
      const q = sy * w + sx;
      if (sx > 0 && sx < w - 1) steps[2 * i] = ((luma(q + 1) - luma(q - 1)) / 2) ** 2;
      if (sy > 0 && sy < h - 1) steps[2 * i + 1] = ((luma(q + w) - luma(q - w)) / 2) ** 2;
    }
  return steps;
}

interface Place {
  readonly part: number;
  /** The part's box with room round it, in the picture. */
  readonly wide: Rect;
  readonly left: number;
  readonly top: number;
}

/** Where the copies of bent parts go: side by side, row under row. */
function placesOf({ box, number, labels }: Parts, bends: Float32Array, frame: Rect, from: number): Place[] {
  const edges = labels.map(() => ({ x0: Infinity, y0: Infinity, x1: -1, y1: -1, isBent: false }));
  for (let y = 0, i = 0; y < box.h; y++)
    for (let x = 0; x < box.w; x++, i++) {
      if (number[i] < 0) continue;
      const e = edges[number[i]];
      e.x0 = Math.min(e.x0, x);
      e.y0 = Math.min(e.y0, y);
      e.x1 = Math.max(e.x1, x);
      e.y1 = Math.max(e.y1, y);
      if (Math.max(Math.abs(bends[2 * i]), Math.abs(bends[2 * i + 1])) >= leastBendPx) e.isBent = true;
    }
  const places: Place[] = [];
  let [left, top, below] = [0, from, from];
  edges.forEach(({ x0, y0, x1, y1, isBent }, part) => {
    if (!isBent) return;
    const own = { x: box.x + x0, y: box.y + y0, w: x1 - x0 + 1, h: y1 - y0 + 1 };
    const wide = intersect(grow(own, roomPx), { x: 0, y: 0, w: frame.w, h: frame.h });
    if (left + wide.w > frame.w) [left, top] = [0, below];
    places.push({ part, wide, left, top });
    left += wide.w;
    below = Math.max(below, top + wide.h);
  });
  return places;
}

/** For each pixel of a rectangle up to the room that copies have from a part: the part's pixel nearest to it, in the area's box; −1 for
 *  the others. */
function nearestOf({ box, number }: Parts, part: number, wide: Rect): Int32Array {
  const nearest = new Int32Array(wide.w * wide.h).fill(-1);
  let front: number[] = [];
  for (let y = 0, i = 0; y < wide.h; y++)
    for (let x = 0; x < wide.w; x++, i++) {
      const u = wide.x + x - box.x;
      const v = wide.y + y - box.y;
      if (u < 0 || v < 0 || u >= box.w || v >= box.h || number[v * box.w + u] !== part) continue;
      nearest[i] = v * box.w + u;
      front.push(i);
    }
  for (let ring = 0; ring < roomPx; ring++) {
    const next: number[] = [];
    const reach = (i: number, from: number) => {
      if (nearest[i] >= 0) return;
      nearest[i] = nearest[from];
      next.push(i);
    };
    for (const i of front) {
      const x = i % wide.w;
      if (x > 0) reach(i - 1, i);
      if (x < wide.w - 1) reach(i + 1, i);
      if (i >= wide.w) reach(i - wide.w, i);
      if (i < nearest.length - wide.w) reach(i + wide.w, i);
    }
    front = next;
  }
  return nearest;
}
