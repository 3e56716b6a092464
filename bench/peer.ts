import type { Raster, Rect } from '../src/core/raster';

/** The general-purpose library that fills are compared with: both methods of OpenCV's `inpaint`, as WebAssembly. */
export type PeerMethod = 'telea' | 'navier-stokes';

interface Mat {
  data: Uint8Array;
  delete(): void;
}

interface OpenCv {
  Mat: new (rows: number, cols: number, type: number) => Mat;
  CV_8UC1: number;
  CV_8UC3: number;
  INPAINT_TELEA: number;
  INPAINT_NS: number;
  inpaint(from: Mat, mask: Mat, to: Mat, radius: number, method: number): void;
  onRuntimeInitialized?: () => void;
}

const neighbourhoodPx = 5;

let loaded: Promise<{ cv: OpenCv }> | null = null;

/** The module has a `then` of its own that gives the module again: awaiting it would never end. */
async function load(): Promise<{ cv: OpenCv }> {
  const { default: given } = await import('@techstark/opencv-js');
  const cv = (given instanceof Promise ? await given : given) as unknown as OpenCv;
  if (!cv.Mat)
    await new Promise<void>((ready) => {
      cv.onRuntimeInitialized = ready;
    });
  return { cv };
}

/** The photo with an area filled by the peer.
 *  @param inside  photo in size, non-zero = to be filled
 *  @param rect    the part that is worked on; the area lies in it */
export async function peerFill(
  method: PeerMethod,
  photo: Raster,
  inside: Uint8Array,
  rect: Rect,
): Promise<{ picture: Raster; tookMs: number }> {
  loaded ??= load();
  const { cv } = await loaded;
  const from = new cv.Mat(rect.h, rect.w, cv.CV_8UC3);
  const mask = new cv.Mat(rect.h, rect.w, cv.CV_8UC1);
  const to = new cv.Mat(rect.h, rect.w, cv.CV_8UC3);
  eachPixel(photo, rect, (p, i) => {
    for (let c = 0; c < 3; c++) from.data[3 * i + c] = photo.data[4 * p + c];
    mask.data[i] = inside[p] ? 255 : 0;
  });
  const start = performance.now();
  cv.inpaint(from, mask, to, neighbourhoodPx, method === 'telea' ? cv.INPAINT_TELEA : cv.INPAINT_NS);
  const tookMs = performance.now() - start;
  const picture = { ...photo, data: photo.data.slice() };
  eachPixel(photo, rect, (p, i) => {
    if (inside[p]) for (let c = 0; c < 3; c++) picture.data[4 * p + c] = to.data[3 * i + c];
  });
  for (const mat of [from, mask, to]) mat.delete();
  return { picture, tookMs };
}

function eachPixel(photo: Raster, rect: Rect, visit: (p: number, i: number) => void): void {
  for (let y = 0; y < rect.h; y++)
    for (let x = 0; x < rect.w; x++) visit((rect.y + y) * photo.width + rect.x + x, y * rect.w + x);
}
