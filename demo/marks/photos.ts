/** The demo photographs as they are measured on: their pixels, and the masks that are known. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeLab } from '../../src/core/colour';
import { decodeMask } from '../../src/core/formats';
import { type Found, type Seen, seenOf } from '../../src/core/marking';
import type { Raster } from '../../src/core/raster';
import { decodePicture } from '../../src/headless/node-codecs';

const photos = join(import.meta.dirname, '..', 'photos');
export const read = (scene: string, file: string) => new Uint8Array(readFileSync(join(photos, scene, file)));

export interface DemoPhoto {
  readonly photo: Raster;
  readonly seen: Seen;
}

const opened = new Map<string, DemoPhoto>();

export async function openDemo(scene: string): Promise<DemoPhoto> {
  const known = opened.get(scene);
  if (known) return known;
  const photo = await decodePicture(read(scene, 'photo.jpg'));
  const demo = { photo, seen: seenOf(photo) };
  opened.set(scene, demo);
  return demo;
}

/** 1 where a thing is. */
export const thingMask = (scene: string, thing: string): Uint8Array =>
  decodeMask(read(scene, `${thing}.png`)).data.map((v) => (v > 127 ? 1 : 0));

const lab = new Float32Array(3);
/** CIELAB lightness of a pixel. */
export const lightnessAt = ({ data }: Raster, i: number): number => {
  writeLab(data[4 * i], data[4 * i + 1], data[4 * i + 2], lab, 0);
  return lab[0];
};

/** Marks something found on a picture of so many columns. */
export function drawFound({ mask, x, y, w, h }: Found, into: Uint8Array, width: number): void {
  const height = into.length / width;
  for (let v = 0; v < Math.min(h, height - y); v++)
    for (let u = 0; u < Math.min(w, width - x); u++)
      if (mask.data[Math.floor((v * mask.h) / h) * mask.w + Math.floor((u * mask.w) / w)] > 127)
        into[(y + v) * width + x + u] = 1;
}
