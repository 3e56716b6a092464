import { squaredDistance } from '../../area';
import { InputError } from '../../errors';
import { makeRandom, type Random } from '../../random';
import { type FloatImage, makeFloatImage } from '../../raster';
import { correctionField } from './correction';
import { type Frame, indicesOf, makeFrame, pixelBytes, shrink, usableCentres } from './frame';
import { nudgeShifts, refineMap } from './refine';
import { cutSeams, frequentShifts, type ShiftMap } from './seam-cut';
import { PatchSearch, refineSources } from './search';

export interface FillInput {
  /** The photo round the hole; what lies inside the hole is not read. */
  readonly image: FloatImage;
  /** image.rect in size; non-zero = to be filled. At least one pixel, at most all but some. */
  readonly hole: Uint8Array;
  /** image.rect in size; 0 = must not be drawn from. Null: everything may. */
  readonly allowed: Uint8Array | null;
  readonly seed: number;
}

export interface FillResult {
  /** Same rectangle as the input: filled pixels in the hole, transparent black elsewhere. */
  readonly image: FloatImage;
  /** From where each pixel was taken: index into `shifts`, −1 outside the hole. */
  readonly map: ShiftMap;
}

export type FillStage = 'reading' | 'searching' | 'joining' | 'blending';
export type FillProgress = (stage: FillStage, share: number) => void;

/** Hole half-thickness in pixels at which the pyramid stops, and patch radius (9×9). */
const coarseEnoughPx = 9;
const patchRadius = 4;
/** The level at which seams are first cut has at most this many hole pixels. */
const mostWorkingPixels = 12_000;
const mostShifts = 60;

/** Continues the surroundings into a hole, so that nobody can tell.
 *
 *  Coarse to fine: an onion-peel start, then rounds of patch search and weighted votes (Wexler, Shechtman & Irani 2007;
 *  Barnes et al. 2009; texture features after Newson et al. 2014). The votes only guide: the pixels themselves are
 *  copied in coherent pieces whose shifts a graph cut chooses (He & Sun 2012; Kwatra et al. 2003), joined by a Poisson
 *  correction. So grain and sharpness are those of the surroundings.
 *
 *  @throws InputError `no-source` when there is not enough to draw from
 *  Degenerate: a hole of one pixel, at the edge or in several parts works. Same input and seed, same result, anywhere.
 *  Cost grows with the hole and the window round it.
 */
export function computeFill(input: FillInput, onProgress: FillProgress = () => {}): FillResult {
  const random = makeRandom(input.seed);
  const { image, hole, allowed } = input;
  const { w, h } = image.rect;
  const radius = Math.min(patchRadius, Math.floor((Math.min(w, h) - 1) / 2));
  onProgress('reading', 0);
  const holes = indicesOf(hole);
  if (holes.length === 0) throw new InputError('empty-area', 'The area is empty: there is nothing to fill.');
  const levels = buildLevels(image, hole, allowed, radius);
  const last = levels.length - 1;
  let working = Math.min(last, 1);
  while (working < last && indicesOf(levels[working].hole).length > mostWorkingPixels) working++;
  onProgress('searching', 0);
  const { guide, sources } = searchLevels(levels, working, radius, random, onProgress);
  onProgress('joining', 0);
  let map = firstCut(levels[working], guide, sources);
  for (let level = working - 1; level >= 0; level--) {
    map = refineMap(levels[level], levels[level + 1], map);
    map = nudgeShifts(levels[level], map);
    map = cutSeams(levels[level], map, null, 1, nearLabels(levels[level], map, 4));
    onProgress('joining', (working - level) / (working + 1));
  }
  onProgress('blending', 0);
  const out = makeFloatImage(image.rect);
  const field = correctionField(image, hole, map);
  for (const p of holes) {
    const s = map.shifts[map.label[p]];
    const q = p + s.dy * w + s.dx;
    const alpha = image.data[4 * q + 3];
    for (let c = 0; c < 3; c++)
      out.data[4 * p + c] = Math.max(0, Math.min(alpha, image.data[4 * q + c] + field[4 * p + c]));
    out.data[4 * p + 3] = alpha;
  }
  onProgress('blending', 1);
  return { image: out, map };
}

function buildLevels(
  image: FloatImage,
  hole: Uint8Array,
  allowed: Uint8Array | null,
  radius: number,
): Frame[] {
  const thickness = Math.sqrt(
    squaredDistance(
      Uint8Array.from(hole, (v) => (v ? 0 : 1)),
      image.rect.w,
      image.rect.h,
    ).reduce((a, b) => Math.max(a, b < 1e11 ? b : 0), 0),
  );
  const wanted = Math.max(0, Math.ceil(Math.log2(Math.max(1, thickness) / coarseEnoughPx)));
  const levels = [makeFrame(image, hole, allowed, Math.max(2, 2 ** (wanted - 1)))];
  if (!hasSources(levels[0], radius))
    throw new InputError(
      'no-source',
      'There is not enough round this area to draw from. Mark less, or let it look farther.',
    );
  while (levels.length - 1 < wanted) {
    const next = shrink(levels[levels.length - 1]);
    if (Math.min(next.w, next.h) < 2 * radius + 3 || !hasSources(next, radius)) break;
    levels.push(next);
  }
  return levels;
}

const hasSources = (frame: Frame, radius: number): boolean =>
  usableCentres(frame, radius).some((v) => v === 1);

function searchLevels(
  levels: readonly Frame[],
  working: number,
  radius: number,
  random: Random,
  onProgress: FillProgress,
): { guide: Uint8Array; sources: Int32Array } {
  const last = levels.length - 1;
  let coarse: { frame: Frame; sources: Int32Array } | null = null;
  let guide = levels[last].img;
  for (let level = last; level >= working; level--) {
    const search = new PatchSearch(levels[level], radius, random);
    const window = Math.max(levels[level].w, levels[level].h);
    if (!coarse) search.peel(Math.min(2500, Math.ceil(search.usableCount * 0.8)));
    else {
      refineSources(coarse.frame, coarse.sources, search);
      search.vote(true);
    }
    const rounds = level === 0 ? 3 : level === last ? 10 : 5 + level - working + 1;
    for (let round = 0; round < rounds; round++) {
      search.improve(4, coarse ? Math.max(8, window >> 2) : window);
      search.vote();
      onProgress('searching', (last - level + (round + 1) / rounds) / (last - working + 1));
    }
    search.improve(2, 8);
    coarse = { frame: levels[level], sources: search.sources() };
    guide = search.picture();
  }
  return { guide, sources: coarse!.sources };
}

/** Labels at the working level: every pixel starts with the allowed shift whose source is nearest to the guide. */
function firstCut(frame: Frame, guide: Uint8Array, sources: Int32Array): ShiftMap {
  const shifts = frequentShifts(frame, sources, mostShifts);
  const label = new Int32Array(frame.w * frame.h).fill(-1);
  const open = (p: number, l: number) => isOpen(frame, p, shifts[l].dx, shifts[l].dy);
  for (const p of indicesOf(frame.hole)) {
    let best = Infinity;
    for (let l = 0; l < shifts.length; l++) {
      if (!open(p, l)) continue;
      const d = colourDistance(guide, p, frame.img, p + shifts[l].dy * frame.w + shifts[l].dx);
      if (d < best) {
        best = d;
        label[p] = l;
      }
    }
    if (label[p] >= 0) continue;
    // None of the frequent shifts serves here (a thin remnant far out): take any source at all.
    const q = nearestSource(frame, p);
    label[p] = shifts.length;
    shifts.push({ dx: (q % frame.w) - (p % frame.w), dy: Math.floor(q / frame.w) - Math.floor(p / frame.w) });
  }
  return cutSeams(frame, { shifts, label }, guide, 2, () => true);
}

function isOpen(frame: Frame, p: number, dx: number, dy: number): boolean {
  const x = (p % frame.w) + dx;
  const y = Math.floor(p / frame.w) + dy;
  return x >= 0 && y >= 0 && x < frame.w && y < frame.h && frame.source[y * frame.w + x] === 1;
}

function colourDistance(a: Uint8Array, p: number, b: Uint8Array, q: number): number {
  let sum = 0;
  for (let c = 0; c < 3; c++) sum += (a[p * pixelBytes + c] - b[q * pixelBytes + c]) ** 2;
  return sum;
}

function nearestSource(frame: Frame, p: number): number {
  const px = p % frame.w;
  const py = Math.floor(p / frame.w);
  let best = -1;
  let least = Infinity;
  for (let q = 0; q < frame.source.length; q++) {
    if (!frame.source[q]) continue;
    const d = ((q % frame.w) - px) ** 2 + (Math.floor(q / frame.w) - py) ** 2;
    if (d < least) {
      least = d;
      best = q;
    }
  }
  return best;
}

/** Whether a label occurs within `reach` pixels of a pixel: seams move a little, pieces stay where they are. */
function nearLabels(frame: Frame, map: ShiftMap, reach: number): (pixel: number, label: number) => boolean {
  const { w, h } = frame;
  const words = Math.ceil(map.shifts.length / 32);
  let bits = new Int32Array(w * h * words);
  for (let p = 0; p < map.label.length; p++)
    if (map.label[p] >= 0) bits[p * words + (map.label[p] >> 5)] |= 1 << (map.label[p] & 31);
  for (const step of [1, w]) {
    const out = new Int32Array(bits.length);
    for (const p of indicesOf(frame.hole)) {
      for (let d = -reach; d <= reach; d++) {
        const q = p + d * step;
        if (q < 0 || q >= w * h || (step === 1 && Math.floor(q / w) !== Math.floor(p / w))) continue;
        for (let k = 0; k < words; k++) out[p * words + k] |= bits[q * words + k];
      }
    }
    bits = out;
  }
  return (p, l) => (bits[p * words + (l >> 5)] & (1 << (l & 31))) !== 0;
}
