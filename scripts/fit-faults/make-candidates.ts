/** Writes what the sweep's nets are fitted to: candidates on clean demo photographs with made-up dust and hairs on them.
 *
 *  `npx tsx scripts/fit-faults/make-candidates.ts <out folder> [<from> <to>] [--plain]`, about 10 seconds a picture; then
 *  `fit.py <out folder>`. A record: six float32 (picture, 1 for a fault and 0 for none, number of the fault, level, promise,
 *  1 for dark), the inputs as float32, the view as int8 in 31sts. */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { standsOut } from '../../demo/marks/sweep';
import { blur, type Grid, makeGrid, smooth, stamp } from '../../demo/toolkit/grid';
import { type Dice, makeDice } from '../../demo/toolkit/random';
import { seenOf } from '../../src/core/marking';
import {
  type Candidate,
  candidatesIn,
  firstLook,
  leastPromise,
  tilesOf,
} from '../../src/core/marking/sweep/candidates';
import { viewOf } from '../../src/core/marking/sweep/fault-look';
import type { Raster, Rect } from '../../src/core/raster';
import { decodePicture, nodeCodecs } from '../../src/headless/node-codecs';
import { encodeFlat } from '../../src/runtime/codecs/flat-picture';

const photos = join(import.meta.dirname, '..', '..', 'demo', 'photos');
const scenes = ['courtyard', 'harvest-day', 'mill-pond', 'orchard-row', 'press-house'];
const variantsEach = 40;
/** Without things of the pictures' own added. */
const isPlain = process.argv.includes('--plain');
/** What an eye sees: so much lightness, and so many of the deviations of what lies round it. */
const leastSeen = 3;
const leastDeviations = 1.8;

interface Made {
  readonly photo: Raster;
  readonly clean: Raster;
  /** Number of the fault at every pixel, 0 for none. */
  readonly label: Int32Array;
  readonly faults: readonly (readonly number[])[];
}

/** A demo photograph, with or without the things that are to be removed, smaller and mirrored by chance; a plane a colour. */
async function background(scene: string, dice: Dice): Promise<Grid[]> {
  const file = dice.next() < 0.5 ? 'truth.jpg' : 'photo.jpg';
  const photo = await decodePicture(new Uint8Array(readFileSync(join(photos, scene, file))));
  const smaller = dice.pick([1, 1, 1.25, 1.6, 2, 2.5]);
  const isMirrored = dice.next() < 0.5;
  const [w, h] = [Math.floor(photo.width / smaller), Math.floor(photo.height / smaller)];
  const columns = Array.from({ length: w }, (_, x) => sharesOf(isMirrored ? w - 1 - x : x, smaller));
  return [0, 1, 2].map((c) => {
    const rows = makeGrid(w, photo.height, (x, y) =>
      columns[x].reduce((sum, { at, share }) => sum + share * photo.data[4 * (y * photo.width + at) + c], 0),
    );
    return makeGrid(w, h, (x, y) =>
      sharesOf(y, smaller).reduce((sum, { at, share }) => sum + (share / 255) * rows.data[at * w + x], 0),
    );
  });
}

/** Which pixels one of a picture so many times smaller lies on, and how much of it. */
function sharesOf(at: number, smaller: number): { at: number; share: number }[] {
  const [from, to] = [at * smaller, (at + 1) * smaller];
  const out: { at: number; share: number }[] = [];
  for (let i = Math.floor(from); i < to - 1e-9; i++)
    out.push({ at: i, share: (Math.min(to, i + 1) - Math.max(from, i)) / smaller });
  return out;
}

async function cleanPhoto(scene: string, dice: Dice): Promise<Raster> {
  const planes = await background(scene, dice);
  const [{ w, h }] = planes;
  const isPrint = dice.next() < 0.75;
  const softness = isPrint ? dice.between(0, 2.2) : dice.next() < 0.3 ? dice.between(0, 1.5) : 0;
  if (!isPlain) addOwnThings(planes, softness, dice);
  const contrast = dice.between(0.75, 1.5);
  const lift = dice.between(0, 0.12);
  const grain = blur(
    makeGrid(w, h, () => dice.normal()),
    dice.between(0, 1.1),
  );
  const rms = Math.sqrt(grain.data.reduce((s, v) => s + v * v, 0) / grain.data.length);
  const amount = (isPrint ? dice.between(0.004, 0.06) : dice.between(0, 0.015)) / rms;
  const soft = planes.map((p) => blur(p, softness));
  const data = new Uint8Array(4 * w * h);
  for (let i = 0; i < w * h; i++) {
    const grey = 0.3 * soft[0].data[i] + 0.6 * soft[1].data[i] + 0.1 * soft[2].data[i];
    for (let c = 0; c < 3; c++) {
      const v = isPrint ? grey : soft[c].data[i];
      const toned = lift + (1 - lift) * v ** contrast;
      const grainy = toned + amount * grain.data[i] * (0.4 + 2.4 * toned * (1 - toned));
      data[4 * i + c] = Math.round(255 * Math.min(1, Math.max(0, grainy)));
    }
    data[4 * i + 3] = 255;
  }
  return { width: w, height: h, channels: 4, depth: 8, data };
}

/** What is small or has corners and belongs to the picture: it goes through the lens with all else. */
function addOwnThings(planes: readonly Grid[], softness: number, dice: Dice): void {
  const [{ w, h }] = planes;
  const lay = (x: number, y: number, share: number, tone: readonly number[]) => {
    if (x < 0 || y < 0 || x >= w || y >= h || share <= 0) return;
    for (const [c, { data }] of planes.entries()) data[y * w + x] += share * (tone[c] - data[y * w + x]);
  };
  const toneOf = (isLight: boolean) => {
    const v = isLight ? dice.between(0.7, 1) : dice.between(0, 0.3);
    return [0, 1, 2].map(() => Math.min(1, Math.max(0, v + dice.normal(0, 0.06))));
  };
  for (let k = (w * h) / 40_000; k > 0; k--) {
    const [cx, cy, reach] = [dice.between(0, w), dice.between(0, h), dice.between(10, 90)];
    const count = 3 + dice.below(3);
    const corners = Array.from({ length: count }, (_, j) => {
      const a = (2 * Math.PI * (j + dice.between(0, 0.8))) / count;
      const r = reach * dice.between(0.3, 1);
      return [r * Math.cos(a), r * Math.sin(a)] as const;
    });
    const [tone, share] = [toneOf(dice.next() < 0.6), dice.between(0.6, 1)];
    for (let y = -reach; y <= reach; y++)
      for (let x = -reach; x <= reach; x++)
        if (isWithin(corners, x, y)) lay(Math.floor(cx + x), Math.floor(cy + y), share, tone);
  }
  // Glints can be told from dust only where the lens made them softer.
  if (softness < 1) return;
  for (let k = (w * h) / 9000; k > 0; k--) {
    const [cx, cy, r] = [dice.between(0, w), dice.between(0, h), 0.8 + 3 * dice.next() ** 2];
    const [tone, share] = [toneOf(dice.next() < 0.5), dice.between(0.5, 1)];
    for (let y = -5; y <= 5; y++)
      for (let x = -5; x <= 5; x++)
        lay(Math.floor(cx + x), Math.floor(cy + y), share * smooth(r + 0.7, r - 0.7, Math.hypot(x, y)), tone);
  }
}

function isWithin(corners: readonly (readonly [number, number])[], x: number, y: number): boolean {
  let inside = false;
  for (let j = 0, i = corners.length - 1; j < corners.length; i = j++) {
    const [[ax, ay], [bx, by]] = [corners[i], corners[j]];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
  }
  return inside;
}

/** Dust and hairs over a photo, light and dark. */
async function soil(clean: Raster, dice: Dice): Promise<Made> {
  const { width: w, height: h } = clean;
  const data = clean.data.slice();
  const label = new Int32Array(w * h);
  let made = 0;
  const scale = dice.pick([0.6, 0.8, 1, 1, 1.3, 2, 3.5]);
  const sharpness = dice.between(0.3, 0.8);
  const count = Math.round((w * h) / 5500 / Math.max(1, scale));
  for (const [low, high] of [
    [0.78, 1],
    [0, 0.25],
  ]) {
    const cover = makeGrid(w, h);
    const tone = dice.between(low, high);
    for (let k = 0; k < count; k++) {
      made++;
      const [x, y] = [dice.between(0, w), dice.between(0, h)];
      const r = scale * (0.8 + 4 * dice.next() ** 3);
      const lumps = 1 + dice.below(3);
      const isHair = dice.next() < 0.04;
      let strength = dice.between(0.45, 1);
      const dot = (px: number, py: number, pr: number) => {
        stamp(cover, px, py, pr, strength);
        for (let v = Math.max(0, Math.floor(py - pr)); v <= Math.min(h - 1, py + pr); v++)
          for (let u = Math.max(0, Math.floor(px - pr)); u <= Math.min(w - 1, px + pr); u++)
            if (Math.hypot(u - px, v - py) < pr + 0.3) label[v * w + u] = made;
      };
      if (!isHair)
        for (let l = 0; l < lumps; l++) {
          dot(x + dice.normal(0, r), y + dice.normal(0, r), r * dice.between(0.6, 1.1));
          strength = dice.between(0.45, 1);
        }
      else {
        let [hx, hy, a] = [x, y, dice.between(0, 6.28)];
        const bend = dice.normal(0, 0.018);
        for (let s = dice.between(20, 300); s > 0; s--) {
          dot(hx, hy, scale * dice.between(0.9, 1.2));
          a += bend + dice.normal(0, 0.03);
          hx += Math.cos(a);
          hy += Math.sin(a);
        }
      }
    }
    const soft = blur(cover, sharpness);
    for (let i = 0; i < w * h; i++) {
      const k = soft.data[i];
      if (k > 0.004) for (let c = 0; c < 3; c++) data[4 * i + c] += k * (255 * tone - data[4 * i + c]);
    }
  }
  const faults: number[][] = Array.from({ length: made + 1 }, () => []);
  label.forEach((id, i) => {
    if (id) faults[id].push(i);
  });
  const quality = dice.pick([85, 92, 96]);
  const bytes = await encodeFlat({ ...clean, data }, { kind: 'jpeg', quality }, nodeCodecs);
  return { photo: await decodePicture(bytes), clean, label, faults };
}

/** −1 where it is darker, 1 where lighter, 0 where no eye sees it. */
function sightOf({ photo, clean }: Made, part: readonly number[]): number {
  if (part.length < 2) return 0;
  const { lightness, deviations } = standsOut(photo, clean, part);
  return Math.abs(lightness) >= leastSeen && deviations >= leastDeviations ? Math.sign(lightness) : 0;
}

/** Which fault a candidate is of; 0: none, null: it does not count, lying near one that it does not show.
 *  @param tile  what its relief shows, on its level */
function faultUnder(
  { label, faults, photo }: Made,
  sights: readonly number[],
  candidate: Candidate,
  tile: Rect,
): number | null {
  const { part, isDark, foundAt, relief } = candidate;
  const by = 2 ** foundAt.level;
  const { width, height } = photo;
  /** How many of its pixels lie on each fault. */
  const on = new Map<number, number>();
  let near = false;
  for (const i of part.pixels) {
    const x0 = (tile.x + (i % relief.w)) * by;
    const y0 = (tile.y + Math.floor(i / relief.w)) * by;
    const own = new Set<number>();
    for (let y = Math.max(0, y0 - 2); y < Math.min(height, y0 + by + 2); y++)
      for (let x = Math.max(0, x0 - 2); x < Math.min(width, x0 + by + 2); x++) {
        const id = label[y * width + x];
        if (!id) continue;
        near = true;
        if (x >= x0 && y >= y0 && x < x0 + by && y < y0 + by) own.add(id);
      }
    for (const id of own) on.set(id, (on.get(id) ?? 0) + 1);
  }
  if (!near) return 0;
  const [best, count] = [...on].reduce((a, b) => (b[1] > a[1] ? b : a), [0, 0]);
  const isShown = best > 0 && sights[best] === (isDark ? -1 : 1);
  const isMost = count > 0.4 * part.pixels.length || count * by * by > 0.4 * (faults[best]?.length ?? 0);
  return isShown && isMost ? best : null;
}

function recordsOf(made: Made, picture: number): { records: Buffer[]; faults: number; found: number } {
  const { photo, faults } = made;
  const seen = seenOf(photo);
  const sights = faults.map((part) => sightOf(made, part));
  const records: Buffer[] = [];
  const found = new Set<number>();
  for (let level = 0; level < Math.min(4, seen.levels); level++)
    for (const tile of tilesOf(seen, level, { x: 0, y: 0, w: photo.width, h: photo.height }))
      for (const candidate of candidatesIn(seen, level, tile, { mostPx: 30, light: true, dark: true })) {
        const { traits, inputs, promise } = firstLook(candidate);
        const fault = promise < leastPromise ? null : faultUnder(made, sights, candidate, tile.seen);
        if (fault === null) continue;
        if (fault > 0) found.add(fault);
        const head = [picture, fault > 0 ? 1 : 0, fault, level, promise, candidate.isDark ? 1 : 0, ...inputs];
        const view = Int8Array.from(viewOf(candidate, traits), (v) => Math.round(31 * v));
        records.push(Buffer.concat([Buffer.from(Float32Array.from(head).buffer), Buffer.from(view.buffer)]));
      }
  return { records, faults: sights.filter((s) => s !== 0).length, found: found.size };
}

const [folder, from = '0', to = String(scenes.length * variantsEach)] = process.argv
  .slice(2)
  .filter((word) => !word.startsWith('--'));
mkdirSync(folder, { recursive: true });
for (let k = Number(from); k < Number(to); k++) {
  const dice = makeDice(9000 + k);
  const clean = await cleanPhoto(scenes[k % scenes.length], dice);
  const { records, faults, found } = recordsOf(await soil(clean, dice), k);
  writeFileSync(join(folder, `${k}.bin`), Buffer.concat(records));
  console.log(
    `${k} ${scenes[k % scenes.length]}: ${records.length} candidates, ${found} of ${faults} faults among them`,
  );
}
