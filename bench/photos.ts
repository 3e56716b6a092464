import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pixelsDigest, sha256, writeJobFile } from '../src/core/formats';
import type { Layer, Mend } from '../src/core/job';
import { makeRandom } from '../src/core/random';
import { makeRaster, type Raster } from '../src/core/raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../src/core/testing/jobs';
import { decodePicture } from '../src/headless/node-codecs';

const outFolder = join(import.meta.dirname, 'out');

/** A file that a benchmark leaves behind; not committed. */
export function outFile(name: string): string {
  mkdirSync(outFolder, { recursive: true });
  return join(outFolder, name);
}

/** A grainy texture of any size, the same every time. */
export function texture(width: number, height: number): Raster {
  const random = makeRandom(11);
  const raster = makeRaster(width, height, 4, 8);
  const across = Float32Array.from(
    { length: width },
    (_, x) => 40 * Math.sin(x / 97) + 18 * Math.sin(x / 11),
  );
  for (let y = 0, i = 0; y < height; y++) {
    const down = 30 * Math.cos(y / 131) + 14 * Math.sin(y / 7 + 2);
    for (let x = 0; x < width; x++, i += 4) {
      const v = 120 + across[x] + down + 22 * (random.next() - 0.5);
      raster.data[i] = v;
      raster.data[i + 1] = v * 0.92;
      raster.data[i + 2] = 200 - v * 0.6;
      raster.data[i + 3] = 255;
    }
  }
  return raster;
}

/** The 24-megapixel JPEG that the browser's figures are taken on. */
export function largeJpeg(): { file: string; bytes: Uint8Array } {
  const file = join(import.meta.dirname, '..', 'demo', 'large', 'press-house', 'photo.jpg');
  return { file, bytes: new Uint8Array(readFileSync(file)) };
}

/** A job on the large photo with so many mends in its middle, where strokes will be painted. */
export async function largeJob(mends: number): Promise<string> {
  const file = outFile(`large-${mends}.vine.zip`);
  if (existsSync(file)) return file;
  const { bytes } = largeJpeg();
  const photo = await decodePicture(bytes);
  const random = makeRandom(5);
  const made: Mend[] = [];
  for (let i = 0; i < mends; i++) {
    const x = 2400 + random.below(1200);
    const y = 1500 + random.below(1000);
    const source = { dx: 300 - random.below(600), dy: 200 - random.below(400) };
    const area =
      i % 2
        ? areaOfShapes([boxShape(x, y, 90, 70)], 2, 5)
        : areaOfShapes([
            strokeShape(
              [
                [x, y],
                [x + 60, y + 30],
              ],
              30,
              0.5,
            ),
          ]);
    made.push(mendOf(i % 3 ? 'clone' : 'heal', area, source));
  }
  const layers: Layer[] = [layerOf(made)];
  const job = jobOf(photo, layers);
  const facts = {
    ...job.photo,
    name: 'large.jpg',
    type: 'image/jpeg',
    sha256: await sha256(bytes),
    pixelsSha256: await pixelsDigest(photo.data),
  };
  const bundle = { job: { ...job, photo: facts }, original: bytes, masks: new Map(), tries: new Map() };
  writeFileSync(file, writeJobFile(bundle));
  return file;
}
