import { type BlurPyramid, blurPx, type Level } from './blur-pyramid';

/** Of white noise, so much of the deviation is left from one octave to the next. */
const noiseLeft = 1 / (2 * Math.sqrt(Math.PI) * blurPx);
/** What is so many times as strong as grain would be there, and no more than that beyond it, is not seen as detail. */
const asGrain = 1.6;
const unseen = 0.6 / 255;
/** Strength is looked at over so many pixels of a level on either side. */
const reach = 3;

/** Where a picture is out of focus, octave by octave. */
export class SoftGround {
  /** For each octave from the first: 1 where nothing that fine or finer is seen but grain. */
  private readonly quiet: { readonly w: number; readonly h: number; readonly is: Uint8Array }[] = [];

  constructor({ levels }: BlurPyramid) {
    const { w, h } = levels[0];
    const grain = strengthOf(levels[0]);
    for (let k = 1; k < levels.length; k++) {
      const strength = strengthOf(levels[k]);
      const { w: lw, h: lh } = levels[k];
      const finer = this.quiet[k - 2];
      const is = new Uint8Array(lw * lh);
      for (let y = 0, i = 0; y < lh; y++)
        for (let x = 0; x < lw; x++, i++) {
          if (finer && !finer.is[Math.min(finer.h - 1, 2 * y) * finer.w + Math.min(finer.w - 1, 2 * x)])
            continue;
          const own = grain[Math.min(h - 1, y << k) * w + Math.min(w - 1, x << k)];
          if (strength[i] <= asGrain * noiseLeft ** k * own + unseen) is[i] = 1;
        }
      this.quiet.push({ w: lw, h: lh, is });
    }
  }

  /** Whether pixel (x, y) has nothing but grain round it up to an octave: 1 for what is two pixels wide, and so on. */
  isSoft(octave: number, x: number, y: number): boolean {
    const { w, h, is } = this.quiet[octave - 1];
    return is[Math.min(h - 1, y >> octave) * w + Math.min(w - 1, x >> octave)] > 0;
  }

  /** How much of the picture is soft at all, 0…1. */
  get share(): number {
    const is = this.quiet[0]?.is ?? [];
    return is.reduce((sum, v) => sum + v, 0) / Math.max(1, is.length);
  }
}

/** The deviation of the finest detail of a level's brightness, near each pixel. */
function strengthOf({ w, h, pixels, low }: Level): Float32Array {
  const energy = new Float32Array(w * h);
  for (let i = 0, at = 0; i < energy.length; i++, at += 4) {
    if (pixels[at + 3] === 0) continue;
    // What a pixel is more than what is known round it.
    const share = pixels[at + 3] / low[at + 3];
    const own = pixels[at] + pixels[at + 1] + pixels[at + 2];
    const detail = (own - share * (low[at] + low[at + 1] + low[at + 2])) / 3;
    energy[i] = detail * detail;
  }
  const across = new Float32Array(w * h);
  meanAlong(energy, across, w, h, 1, w);
  meanAlong(across, energy, h, w, w, 1);
  for (let i = 0; i < energy.length; i++) energy[i] = Math.sqrt(Math.max(0, energy[i]));
  return energy;
}

/** Means over {@link reach} values on either side along lines: `n` values `step` apart, lines `next` apart. */
function meanAlong(
  from: Float32Array,
  to: Float32Array,
  n: number,
  lines: number,
  step: number,
  next: number,
): void {
  for (let l = 0; l < lines; l++) {
    const first = l * next;
    const last = first + (n - 1) * step;
    let sum = 0;
    for (let k = -reach; k <= reach; k++) sum += from[Math.min(last, first + Math.max(0, k) * step)];
    for (let k = 0, i = first; k < n; k++, i += step) {
      to[i] = sum / (2 * reach + 1);
      sum += from[Math.min(last, i + (reach + 1) * step)] - from[Math.max(first, i - reach * step)];
    }
  }
}
