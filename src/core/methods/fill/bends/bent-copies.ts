import { type FloatImage, grow, intersect, makeFloatImage, type Rect } from '../../../raster';
import type { Shift, ShiftMap } from '../cut/seam-cut';
import { BendNet, letGoOfBends, type Place } from './bend-net';
import { type LineFit, lineFitter } from './line-fit';

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
 *  Nothing is bent where that would bring in what the cut had left out.
 *
 *  @param image  the frame's pixels; those of targets are not read
 *  @param roles  frame size, as in the frame's `role`. Nothing but sources goes into a copy
 *  @returns null where all lines meet as they are
 *  Where nothing is bent pixels stay exact copies; bent ones are resampled once.
 *  Cost: O(length of the joins + area). Source: {@link BendNet}.
 */
export function bentCopies(image: FloatImage, roles: Uint8Array, map: ShiftMap): BentCopies | null {
  const bent = bentParts(image, roles, map);
  // Before room is made for the picture with its copies.
  letGoOfBends();
  if (!bent) return null;
  const { w } = image.rect;
  const { from, rows, copies } = bent;
  const out = makeFloatImage({ ...image.rect, h: from + rows });
  out.data.set(image.data);
  out.data.set(copies.data, 4 * w * from);
  const outRoles = new Uint8Array(w * (from + rows));
  outRoles.set(roles);
  outRoles.set(copies.roles, w * from);
  const { origin } = copies;
  return {
    image: out,
    roles: outRoles,
    map: bent.map,
    originOf: (x, y) => {
      if (y < from) return [x, y];
      const at = 2 * ((y - from) * w + x);
      return [origin[at], origin[at + 1]];
    },
  };
}

/** The copies alone, the row that they begin in, how many rows they take, and the map to them; null where all lines meet. */
function bentParts(image: FloatImage, roles: Uint8Array, map: ShiftMap) {
  const net = new BendNet(image, roles, map);
  if (!settle(net, image, roles, map)) return null;
  const { w, h } = image.rect;
  const { places, rows } = placesOf(net, image.rect);
  if (rows === 0) return null;
  const from = h + gapPx;
  const copies = net.copies(places, rows, roomPx);
  return { from, rows, copies, map: toCopies(net, map, places, { w, from, rows }) };
}

/** The map, where bent parts are taken from their copies. */
function toCopies(
  { box, number, labels }: BendNet,
  map: ShiftMap,
  places: readonly Place[],
  { w, from, rows }: { w: number; from: number; rows: number },
): ShiftMap {
  const shifts = map.shifts.slice();
  const label = new Int32Array(w * (from + rows)).fill(-1);
  label.set(map.label);
  const named = new Int32Array(labels.length).fill(-1);
  for (const { part, wide, left, top } of places)
    named[part] = shifts.push({ dx: left - wide.x, dy: from + top - wide.y }) - 1;
  for (let y = 0, i = 0; y < box.h; y++)
    for (let p = (box.y + y) * w + box.x; i < (y + 1) * box.w; p++, i++)
      if (number[i] >= 0 && named[number[i]] >= 0) label[p] = named[number[i]];
  return { shifts, label };
}

/** Bends parts as lines that miss each other at joins ask for. @returns false when no line does */
function settle(net: BendNet, image: FloatImage, roles: Uint8Array, map: ShiftMap): boolean {
  const { joins, labels } = net;
  const fitAt = lineFitter(image, roles);
  const shiftOf = (part: number | null) => (part === null ? noShift : map.shifts[labels[part]]);
  const fits = joins.map(({ x, y, part, other }) => fitAt(x, y, shiftOf(part), shiftOf(other)));
  if (!fits.some((fit) => fit?.isOff)) return false;
  for (;;) {
    net.letGo();
    joins.forEach(({ x, y, part, other }, k) => {
      const fit = fits[k];
      if (fit === stays) for (const one of [part, other]) net.hold(x, y, one, null, stays);
      else if (fit) net.hold(x, y, part, other, fit);
    });
    net.settle();
    const worse = net.worseJoins().filter((k) => fits[k] !== stays);
    if (worse.length === 0) return true;
    for (const k of worse) fits[k] = stays;
  }
}

/** Where the copies of bent parts go: side by side, row under row. */
function placesOf(net: BendNet, frame: Rect): { places: Place[]; rows: number } {
  const places: Place[] = [];
  let [left, top, rows] = [0, 0, 0];
  net.extents().forEach(({ rect, isBent }, part) => {
    if (!isBent) return;
    const wide = intersect(grow(rect, roomPx), { x: 0, y: 0, w: frame.w, h: frame.h });
    if (left + wide.w > frame.w) [left, top] = [0, rows];
    places.push({ part, wide, left, top });
    left += wide.w;
    rows = Math.max(rows, top + wide.h);
  });
  return { places, rows };
}
