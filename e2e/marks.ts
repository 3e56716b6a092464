import type { Page } from '@playwright/test';
import { type Area, noMasks, rasteriseArea } from '../src/core/area';
import { makeRandom } from '../src/core/random';
import type { Raster } from '../src/core/raster';
import { paintPhoto } from '../src/core/testing/pictures';
import { BenchPage } from './bench-page';
import { pngFile } from './photos';

export const [width, height] = [640, 480];

/** A red disc, a grey wire and four white specks before a ground with grain. */
export function scene(): Raster {
  const random = makeRandom(9);
  return paintPhoto(width, height, 8, (x, y) => {
    const n = (random.next() - 0.5) * 0.05;
    if (Math.hypot(x - 200, y - 250) < 60) return [0.75 + n, 0.15 + n, 0.15 + n];
    if (Math.abs(y - 60 - x / 16) < 2.5) return [0.12 + n, 0.12 + n, 0.14 + n];
    if (
      [
        [420, 200],
        [500, 260],
        [450, 330],
        [560, 380],
      ].some(([sx, sy]) => Math.hypot(x - sx, y - sy) < 3)
    )
      return [0.97, 0.97, 0.97];
    return [0.35 + n, 0.5 + n, 0.4 + n];
  });
}

export const markOf = (bench: BenchPage) => bench.page.evaluate(() => window.bench!.state.mark);

/** How many pixels are marked; masks are read from the page. */
export async function marked(bench: BenchPage): Promise<Float32Array> {
  const area = (await markOf(bench)) as Area | null;
  if (!area) return new Float32Array(width * height);
  const ids = area.shapes.flatMap((s) => (s.kind === 'mask' ? [s.maskId] : []));
  const masks = new Map<string, { w: number; h: number; data: Uint8Array }>();
  for (const id of ids) {
    const mask = await bench.page.evaluate((maskId) => {
      const m = window.bench!.masks.get(maskId)!;
      return { w: m.w, h: m.h, data: [...m.data] };
    }, id);
    masks.set(id, { ...mask, data: Uint8Array.from(mask.data) });
  }
  return rasteriseArea(area, { x: 0, y: 0, w: width, h: height }, (id) => masks.get(id) ?? noMasks(id));
}

export const count = (coverage: Float32Array) => coverage.reduce((n, v) => n + (v >= 0.5 ? 1 : 0), 0);
export const at = (coverage: Float32Array, x: number, y: number) => coverage[y * width + x];

export async function open(page: Page): Promise<BenchPage> {
  const bench = new BenchPage(page);
  await bench.take(pngFile('marks.png', scene()));
  await bench.setNumber('Card', 'Margin', 0);
  await bench.setNumber('Card', 'Feather', 0);
  await page.locator('canvas').first().focus();
  return bench;
}
