/** So far from the hole lines are looked for, in photo pixels. */
export const depthPx = 128;
/** Of the pixels, one of so many along a side tells in which directions much runs. */
const lookedAtEvery = 2;
/** So many directions are tried. */
const mostDirections = 3;

/** The photo round the hole, as it is or halved. */
export interface Seen {
  readonly w: number;
  readonly h: number;
  /** Red, green and blue, 0…255. */
  readonly px: Float32Array;
  readonly known: Uint8Array;
  /** Hole pixels next to others, x and y one after the other. */
  readonly rim: Int32Array;
}

/** Directions in which much runs near the hole, in degrees, the strongest first. */
export function directionsOf({ w, h, px, known }: Seen): number[] {
  const bins = 90;
  const votes = new Float64Array(bins);
  const light = (i: number) => px[3 * i] + px[3 * i + 1] + px[3 * i + 2];
  for (let y = 1; y < h - 1; y += lookedAtEvery)
    for (let x = 1; x < w - 1; x += lookedAtEvery) {
      const i = y * w + x;
      if (!known[i] || !known[i - 1] || !known[i + 1] || !known[i - w] || !known[i + w]) continue;
      const [gx, gy] = [light(i + 1) - light(i - 1), light(i + w) - light(i - w)];
      const along = (Math.atan2(gx, -gy) * bins) / Math.PI;
      votes[((Math.round(along) % bins) + bins) % bins] += Math.hypot(gx, gy);
    }
  const smooth = votes.map((_, k) => {
    let sum = 0;
    for (let d = -2; d <= 2; d++) sum += votes[(k + d + bins) % bins];
    return sum;
  });
  const peaks = Array.from(smooth.keys()).filter((k) => {
    for (let d = -4; d <= 4; d++) if (smooth[(k + d + bins) % bins] > smooth[k]) return false;
    return true;
  });
  return peaks
    .sort((a, b) => smooth[b] - smooth[a])
    .slice(0, mostDirections)
    .map((k) => (k * 180) / bins);
}

/** How much each pixel differs from those on both sides of a line through it. */
export class Contrast {
  readonly data: Float32Array;
  /** 1 where it is known. */
  readonly known: Uint8Array;

  constructor(
    readonly seen: Seen,
    deg: number,
    halfWidth: number,
  ) {
    const { w, h, px, known } = seen;
    this.data = new Float32Array(3 * w * h);
    this.known = new Uint8Array(w * h);
    const angle = (deg * Math.PI) / 180;
    const [nx, ny] = [-Math.sin(angle), Math.cos(angle)].map((v) => Math.round(v * halfWidth));
    const step = ny * w + nx;
    const three = 3 * step;
    const { data } = this;
    for (let y = Math.abs(ny); y < h - Math.abs(ny); y++)
      for (let x = Math.abs(nx); x < w - Math.abs(nx); x++) {
        const i = y * w + x;
        if (!known[i] || !known[i - step] || !known[i + step]) continue;
        this.known[i] = 1;
        const at = 3 * i;
        data[at] = px[at] - (px[at - three] + px[at + three]) / 2;
        data[at + 1] = px[at + 1] - (px[at + 1 - three] + px[at + 1 + three]) / 2;
        data[at + 2] = px[at + 2] - (px[at + 2 - three] + px[at + 2 + three]) / 2;
      }
  }
}
