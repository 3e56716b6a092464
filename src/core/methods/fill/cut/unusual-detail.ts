import { gaussianBlur } from '../../../raster';
import { DetailByColour } from '../finish/detail-by-colour';
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
  const n = w * h;
  const colours = new DetailByColour(n, [pixelBytes * n, n, n, n, 16 * n, 16 * n, 8 * n]);
  const { kernel: k, buffer, at } = colours;
  const [imgAt, knownAt, holeAt, sourceAt, low, sizes, strengths] = at;
  new Uint8Array(buffer, imgAt, pixelBytes * n).set(img);
  [known, hole, source].forEach((bits, i) => {
    new Uint8Array(buffer, at[1 + i], n).set(bits);
  });
  k.weighBytes(imgAt, pixelBytes, knownAt, holeAt, n, low);
  gaussianBlur(new Float32Array(buffer, low, 4 * n), w, h, sigmasPx.detail);
  k.sizes(imgAt, pixelBytes, knownAt, holeAt, n, low, sizes);
  gaussianBlur(new Float32Array(buffer, sizes, 4 * n), w, h, sigmasPx.place);
  const kinds = colours.sort(low, sourceAt);
  // In octaves, so that the few edges of a plain ground do not make them usual there.
  k.octaves(colours.of, sizes, noise, n, strengths);
  const { strengths: usual } = colours.near(strengths, sourceAt, 'set');
  // What was blurred is no longer needed.
  new Float32Array(buffer, low, kinds).set(usual.map((v) => (Number.isNaN(v) ? 0 : Math.sqrt(v))));
  k.prices(colours.of, strengths, low, n, perOctave, mostOctaves, freeSurplus, sizes);
  return new Float32Array(buffer, sizes, n).slice();
}
