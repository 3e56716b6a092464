import { squaredDistance } from '../../../area';
import type { Atlas } from '../atlas';
import { type Frame, holePixels, mayTake, nearestSource, nothingToDrawFrom, pixelBytes } from '../frame';
import { outOfPlace } from '../layout';
import { strangeColours } from '../strange-colours';
import { meanColours } from './means';
import { rimShifts } from './rim-shifts';
import { cutSeams, frequentShifts, nearestLabels, type Shift, type ShiftMap, type Wish } from './seam-cut';
import { unusualDetail } from './unusual-detail';

const mostFrequent = 48;
const mostFrequentOfRule = 24;
const mostOfRim = 60;
const mostOfRimOfRule = 30;
/** What is not of ruled ground pays so much for a shift from line to line, in 8-bit steps. */
const outOfLine = 60;
/** Right beside what is not drawn from a source costs so much, in 8-bit steps, and less up to so far from it, in photo pixels. */
const besideOther = { most: 20, nearPx: 48 };

/** What lies round a source, in the mean, may differ by so much from what the guide shows round the target; each 8-bit step beyond
 *  that costs one, up to so many. In pixels of the level. */
const otherThanShown = { radius: 3, free: 20, most: 40 };

/** In 8-bit steps for each octave by which a source has to be stretched or shrunk in some direction, beyond so many. */
const ofOtherShape = { perOctave: 30, free: 0.2 };

/** What a cut looks to. A guide that search and votes made of a small hole is worth following. In a large one it is a blur of what
 *  they could not agree on, in which joints and stems are lost: there the cut takes large pieces that join well, from wherever the
 *  rim looks alike, keeps to colours that are at home round the hole and to the picture's layers, and hardly minds the guide but for
 *  what it shows at large: a ground of another colour, a neighbour that the mark touches. Whatever follows a guide closely must not
 *  take what is smooth for it. */
export type CutManner = 'near to the guide' | 'in large pieces';

/** What is taken again costs less than what stands out clearly: else a loose leaf is taken instead of a plain sky. */
const manners: Record<CutManner, Pick<Wish, 'share' | 'choices' | 'again'> & { readonly sweeps: number }> = {
  'near to the guide': { share: 0.5, choices: 12, again: { cost: 14, nearPx: 10_000 }, sweeps: 2 },
  // What is large may look alike far apart: whole pieces that join well are worth more.
  'in large pieces': {
    share: 0.15,
    choices: Number.POSITIVE_INFINITY,
    again: { cost: 7, nearPx: 64 },
    sweeps: 4,
  },
};

/** Shifts at the level where they are first chosen: every pixel starts with the allowed one whose source is nearest to the guide.
 *  @param sources  where the search takes each pixel from, −1 where it does not
 *  @param pixelPx  of the photo, along a side of a pixel of the frame
 *  @param stepsAt  as the atlas gives them, for pixels of the photo's ground
 *  @throws InputError `no-source` when a pixel can be taken from nowhere */
export function firstCut(
  frame: Frame,
  guide: Uint8Array,
  sources: Int32Array,
  manner: CutManner,
  pixelPx: number,
  stepsAt: Atlas['stepsAt'] = null,
): ShiftMap {
  const inPieces = manner === 'in large pieces';
  const { share, choices, again, sweeps } = manners[manner];
  const shifts = frequentShifts(frame, sources, mostFrequent);
  /** Steps of the shifts that lead from line to line of ruled ground: elsewhere they would only repeat what lies there. */
  const ofLines = new Set<number>();
  if (inPieces) {
    addNew(shifts, rimShifts(frame, mostOfRim, ruleOfAll(frame)));
    frame.rules?.list.forEach(({ period }, k) => {
      if (!period) return;
      for (const s of addNew(shifts, rimShifts(frame, mostOfRimOfRule, k + 1)))
        ofLines.add(s.dy * frame.w + s.dx);
    });
  }
  frame.rules?.list.forEach(({ period }, k) => {
    const its = frequentShifts(frame, sources, k === 0 ? mostFrequent : mostFrequentOfRule, k + 1);
    if (period) for (const s of addNew(shifts, its)) ofLines.add(s.dy * frame.w + s.dx);
    else shifts.push(...its);
  });
  const label = new Int32Array(frame.w * frame.h).fill(-1);
  const holes = holePixels(frame);
  nearestLabels(frame, guide, holes, shifts).forEach((l, k) => {
    label[holes[k]] = l;
  });
  const frequent = shifts.length;
  for (const p of holes) {
    if (label[p] >= 0) continue;
    // None of the frequent shifts serves here (a thin remnant far out): what serves another such place, or any source at all.
    const known = shifts.findIndex(({ dx, dy }, l) => l >= frequent && mayTake(frame, p, dx, dy));
    if (known >= 0) {
      label[p] = known;
      continue;
    }
    const q = nearestSource(frame, p);
    if (q < 0) throw nothingToDrawFrom(frame);
    label[p] = shifts.length;
    shifts.push({ dx: (q % frame.w) - (p % frame.w), dy: Math.floor(q / frame.w) - Math.floor(p / frame.w) });
  }
  const wish: Wish = {
    guide: withoutUnknown(frame, guide),
    share,
    choices,
    again: { cost: again.cost, nearPx: again.nearPx / pixelPx },
    cost: both(
      inPieces
        ? both(strangenessIn(frame, pixelPx, ofLines), otherThanShownIn(frame, guide))
        : unusualDetailIn(frame),
      stepsAt && otherShapesIn(frame, pixelPx, stepsAt),
    ),
  };
  return cutSeams(frame, { shifts, label }, wish, sweeps, null);
}

/** The guide with nothing to see where nothing is known, as beyond the photo: what lies there may be what is to go. */
function withoutUnknown({ known, hole }: Frame, guide: Uint8Array): Uint8Array {
  const out = guide.slice();
  for (let p = 0; p < known.length; p++)
    if (!known[p] && !hole[p]) out.fill(0, p * pixelBytes, (p + 1) * pixelBytes);
  return out;
}

type Cost = (target: number, source: number) => number;

const both = (a: Cost | null, b: Cost | null): Cost | null =>
  a && b ? (t, s) => a(t, s) + b(t, s) : (a ?? b);

function unusualDetailIn(frame: Frame): Cost {
  const prices = unusualDetail(frame);
  // Along a line, or in ruled ground, all that may be taken is of one kind.
  return (target, source) => (frame.rules?.index[target] ? 0 : prices[source]);
}

/** What it costs to take a pixel from where the camera saw it larger, smaller or more slanted: its grain and sharpness are others. */
function otherShapesIn({ w, h }: Frame, pixelPx: number, stepsAt: NonNullable<Atlas['stepsAt']>): Cost {
  const steps = new Float32Array(4 * w * h);
  for (let y = 0, p = 0; y < h; y++)
    for (let x = 0; x < w; x++, p += 4) {
      const here = stepsAt((x + 0.5) * pixelPx - 0.5, (y + 0.5) * pixelPx - 0.5);
      if (here) steps.set(here, p);
    }
  return (target, source) =>
    ofOtherShape.perOctave * Math.max(0, stretch(steps, 4 * source, 4 * target) - ofOtherShape.free);
}

/** By how many octaves what has certain steps at one place is stretched or shrunk, where that is most, to have those of another
 *  place: of the singular values of the map between them. */
function stretch(steps: Float32Array, from: number, to: number): number {
  const [ax, ay, dx, dy] = [steps[to], steps[to + 1], steps[to + 2], steps[to + 3]];
  const [bx, by, ex, ey] = [steps[from], steps[from + 1], steps[from + 2], steps[from + 3]];
  const det = ax * dy - dx * ay;
  if (det === 0 || bx * ey - ex * by === 0) return 0;
  const [xx, xy] = [(bx * dy - ex * ay) / det, (ex * ax - bx * dx) / det];
  const [yx, yy] = [(by * dy - ey * ay) / det, (ey * ax - by * dx) / det];
  const whole = Math.hypot(xx + yy, yx - xy) / 2;
  const uneven = Math.hypot(xx - yy, yx + xy) / 2;
  return Math.max(Math.abs(Math.log2(whole + uneven)), Math.abs(Math.log2(Math.abs(whole - uneven))));
}

/** Number of a rail: the first rule, when no pixel of the hole is free of all; 0 when there is none. */
function ruleOfAll({ rules, views, hole }: Frame): number {
  if (!rules || views || rules.across) return 0;
  return hole.every((v, p) => !v || rules.index[p] > 0) ? 1 : 0;
}

/** @returns those that were not there */
function addNew(shifts: Shift[], further: readonly Shift[]): Shift[] {
  const added = further.filter((s) => !shifts.some(({ dx, dy }) => dx === s.dx && dy === s.dy));
  shifts.push(...added);
  return added;
}

/** What it costs to take a pixel from among others than the guide shows at large: it knows no joints, but no shirt on a meadow either. */
function otherThanShownIn({ w, h, img, known }: Frame, guide: Uint8Array): Cost {
  const { radius, free, most } = otherThanShown;
  const there = meanColours(img, w, h, radius, known);
  const shown = meanColours(guide, w, h, radius, null);
  return (target, source) => {
    const r = there[3 * source] - shown[3 * target];
    const g = there[3 * source + 1] - shown[3 * target + 1];
    const b = there[3 * source + 2] - shown[3 * target + 2];
    return Math.min(most, Math.max(0, Math.sqrt(r * r + g * g + b * b) - free));
  };
}

/** What it costs to take a pixel from where something else is seen than round the hole, or in the target's rows, or from beside
 *  another thing, where its shadow lies or its colour shines.
 *  @param pixelPx  of the photo, along a side of a pixel of the frame */
function strangenessIn(
  frame: Frame,
  pixelPx: number,
  ofLines: ReadonlySet<number>,
): (target: number, source: number) => number {
  const strange = strangeColours(frame);
  const { w, h, layout, known, hole, source } = frame;
  const other = squaredDistance(
    source.map((v, p) => (!v && known[p] && !hole[p] ? 1 : 0)),
    w,
    h,
  );
  const beside = Float32Array.from(other, (squared) =>
    Math.max(0, besideOther.most * (1 - (Math.sqrt(squared) * pixelPx) / besideOther.nearPx)),
  );
  return (target, from) =>
    strange(target, from) +
    beside[from] +
    (ofLines.size > 0 && frame.rules?.index[target] === 0 && ofLines.has(from - target) ? outOfLine : 0) +
    (layout ? outOfPlace(layout, Math.floor(target / w), layout.kind[from]) : 0);
}
