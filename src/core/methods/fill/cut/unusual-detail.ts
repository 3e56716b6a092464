import { gaussianBlur } from '../../../raster';
import { detailByColour, kindsByColour } from '../finish/detail-by-colour';
import { type Frame, pixelBytes } from '../frame';

/** What is finer than a blur of this deviation is detail; how strong it is at a place is seen within a blur of the other. In pixels of
 *  the level. */
const sigmasPx = { detail: 2, place: 1.2 };
/** In 8-bit steps for each octave by which there is less detail than usual, or more beyond some that are free, up to so many octaves. */
const perOctave = 13;
const freeSurplus = 0.5;
const mostOctaves = 2;
/** Added to strengths, in 8-bit steps: less is noise. */
const noise = 3;

/** What it costs to take a pixel from where the picture has less detail than is usual for what is of its colour, or more. What is smooth
 *  differs least from anything, from a guide above all, so that a cut prefers it: of gravel the sand, of foliage what is out of focus.
 *  More than usual is where a leaf hangs in the sky. The measure is ours.
 *  @returns for each pixel of the frame 0…26 8-bit steps; a colour that is hardly seen anywhere is unusual as well
 *  Cost: O(pixels of the frame) */
export function unusualDetail({ w, h, img, known, hole, source }: Frame): Float32Array {
  const isSeen = (p: number) => known[p] === 1 && hole[p] === 0;
  // Colours and how much is known.
  const low = new Float32Array(4 * w * h);
  for (let p = 0; p < w * h; p++) {
    if (!isSeen(p)) continue;
    for (let c = 0; c < 3; c++) low[4 * p + c] = img[p * pixelBytes + c] / 255;
    low[4 * p + 3] = 1;
  }
  gaussianBlur(low, w, h, sigmasPx.detail);
  // How far a pixel lies from what is round it, and whether it is known.
  const sizes = new Float32Array(4 * w * h);
  for (let p = 0, i = 0, j = 0; p < w * h; p++, i += pixelBytes, j += 4) {
    if (!isSeen(p)) continue;
    for (let c = j; c < j + 3; c++) low[c] /= low[j + 3];
    const round = 255 * (low[j] + 2 * low[j + 1] + low[j + 2]);
    sizes[j] = Math.abs(img[i] + 2 * img[i + 1] + img[i + 2] - round) / 4;
    sizes[j + 1] = 1;
  }
  gaussianBlur(sizes, w, h, sigmasPx.place);
  const kinds = kindsByColour(low, (p) => source[p] === 1);
  // In octaves, so that the few edges of a plain ground do not make them usual there.
  const strengthAt = (p: number) => Math.log2(sizes[4 * p] / sizes[4 * p + 1] + noise);
  const seen = detailByColour(kinds);
  kinds.of.forEach((kind, p) => {
    if (kind >= 0) seen.add(kind, strengthAt(p));
  });
  const usual = Float32Array.from({ length: kinds.count }, (_, kind) => Math.sqrt(seen.near(kind) ?? 0));
  return Float32Array.from(kinds.of, (kind, p) => {
    if (kind < 0) return 0;
    const octaves = usual[kind] - strengthAt(p);
    return perOctave * Math.min(mostOctaves, Math.max(octaves, -octaves - freeSurplus, 0));
  });
}
