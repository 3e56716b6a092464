import { describe, expect, test } from 'vitest';
import { makeRandom } from '../../random';
import { reliefOf } from './fault-likelihood';
import { lookCloser, lookFromAllSides, viewOf } from './fault-look';
import nets from './fault-look.json';

const side = 21;

/** Square, channels together. */
type Plane = { side: number; channels: number; at: (x: number, y: number, c: number) => number };

/** A layer in plain loops: 3 × 3, rectified, the greatest of 2 × 2. */
function layerOf(from: Plane, { weights, bias }: { weights: number[]; bias: number[] }): Plane {
  const smaller = Math.floor((from.side - 2) / 2);
  const values = new Float64Array(smaller * smaller * bias.length);
  const sumAt = (x: number, y: number, o: number) => {
    let sum = bias[o];
    for (let v = 0; v < 3; v++)
      for (let u = 0; u < 3; u++)
        for (let c = 0; c < from.channels; c++)
          sum += weights[((v * 3 + u) * from.channels + c) * bias.length + o] * from.at(x + u, y + v, c);
    return Math.max(0, sum);
  };
  for (let y = 0; y < smaller; y++)
    for (let x = 0; x < smaller; x++)
      for (let o = 0; o < bias.length; o++) {
        const four = [0, 1, 2, 3].map((k) => sumAt(2 * x + (k % 2), 2 * y + (k >> 1), o));
        values[(y * smaller + x) * bias.length + o] = Math.max(...four);
      }
  const at = (x: number, y: number, c: number) => values[(y * smaller + x) * bias.length + c];
  return { side: smaller, channels: bias.length, at };
}

function slowly(net: (typeof nets)[number], view: Float32Array, inputs: readonly number[]): number {
  const seen = { side, channels: 3, at: (x: number, y: number, c: number) => view[3 * (y * side + x) + c] };
  const end = layerOf(layerOf(seen, net.first), net.second);
  const all: number[] = [];
  for (let y = 0; y < end.side; y++)
    for (let x = 0; x < end.side; x++) for (let c = 0; c < end.channels; c++) all.push(end.at(x, y, c));
  all.push(...inputs);
  const { weights, bias } = net.last;
  return bias.reduce((odds, own, o) => {
    const sum = all.reduce((s, v, k) => s + v * weights[k * bias.length + o], own);
    return odds + net.out.weights[o] * Math.max(0, sum);
  }, net.out.bias);
}

describe('a closer look at a candidate', () => {
  test('gives the mean of what the nets give in plain loops, whatever was looked at before', () => {
    const random = makeRandom(3);
    for (let k = 0; k < 12; k++) {
      const view = Float32Array.from({ length: 3 * side * side }, () => 4 * (random.next() - 0.5));
      const inputs = Array.from({ length: 27 }, () => 4 * (random.next() - 0.5));
      const odds = nets.map((net) => slowly(net, view, inputs));
      const mean = odds.reduce((s, v) => s + v, 0) / nets.length;
      expect(lookCloser(view, inputs)).toBeCloseTo(mean, 3);
    }
  });

  test('from all sides it says the same whichever way a view is turned or mirrored, and is the mean of all ways', () => {
    const random = makeRandom(5);
    const view = Float32Array.from({ length: 3 * side * side }, () => 4 * (random.next() - 0.5));
    const inputs = Array.from({ length: 27 }, () => 2 * (random.next() - 0.5));
    const laid = (from: Float32Array, place: (x: number, y: number) => readonly [number, number]) => {
      const out = new Float32Array(from.length);
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++) {
          const [u, v] = place(x, y);
          for (let c = 0; c < 3; c++) out[3 * (v * side + u) + c] = from[3 * (y * side + x) + c];
        }
      return out;
    };
    const quarter = (of: Float32Array) => laid(of, (x, y) => [side - 1 - y, x]);
    const mirrored = (of: Float32Array) => laid(of, (x, y) => [side - 1 - x, y]);
    const ways: Float32Array[] = [];
    for (let k = 0, turned = view; k < 4; k++, turned = quarter(turned)) ways.push(turned, mirrored(turned));
    const mean = ways.reduce((sum, way) => sum + lookCloser(way, inputs), 0) / 8;
    for (const way of ways) expect(lookFromAllSides(way, inputs)).toBeCloseTo(mean, 4);
    expect(new Set(ways.map((way) => lookCloser(way, inputs).toFixed(3))).size).toBe(8);
  });

  test('sees lightness over the ground, near and wide, and what belongs to it, with the strongest pixel in the middle', () => {
    const [w, h] = [60, 50];
    const values = Float32Array.from({ length: w * h }, (_, i) => 30 + (i % w) / 2);
    const [peak, beside] = [20 * w + 25, 20 * w + 26];
    values[peak] = 75;
    values[beside] = 60;
    const view = viewOf(
      { part: { pixels: [peak, beside], peak }, relief: reliefOf(values, w, h) },
      { inside: 70, step: 30 },
    );
    const at = (x: number, y: number, square: number) => view[3 * ((y + 10) * side + x + 10) + square];
    expect(at(0, 0, 0)).toBeCloseTo((75 - 40) / 15, 5);
    expect(at(1, 0, 0)).toBeCloseTo((60 - 40) / 15, 5);
    expect(at(-4, 7, 0)).toBeCloseTo((30 + 21 / 2 - 40) / 15, 5);
    // Twice as far out, two by two.
    expect(at(-4, 7, 1)).toBeCloseTo((30 + 17.5 / 2 - 40) / 15, 5);
    const own = [...view.keys()].filter((i) => i % 3 === 2 && view[i] > 0);
    expect(own).toEqual([3 * (10 * side + 10) + 2, 3 * (10 * side + 11) + 2]);
  });

  test('at the corner of the picture it sees the edge go on', () => {
    const values = Float32Array.from({ length: 30 * 30 }, (_, i) => (i === 0 ? 80 : 40));
    const view = viewOf(
      { part: { pixels: [0], peak: 0 }, relief: reliefOf(values, 30, 30) },
      { inside: 80, step: 40 },
    );
    const near = [...view.keys()].filter((i) => i % 3 === 0).map((i) => view[i]);
    expect(near.every(Number.isFinite)).toBe(true);
    // All that lies beyond the corner looks like the corner.
    expect(near.filter((v) => v > 2)).toHaveLength(11 * 11);
  });
});
