import { readFile } from 'node:fs/promises';
import { expect, type Page } from '@playwright/test';
import { decodePng } from '../src/core/formats';
import type { Raster } from '../src/core/raster';
import type { Session } from '../src/editor';
import type { PhotoFile } from './photos';

declare global {
  interface Window {
    bench?: Session;
  }
}

/** Drives the application as a person would: files, keys and the pointer. Only waiting looks inside. */
export class BenchPage {
  constructor(readonly page: Page) {}

  /** Opens photos through the shelf; a single one opens its job. */
  async take(...files: PhotoFile[]): Promise<void> {
    await this.page.goto('/');
    await this.page.getByLabel('Photos or job files').setInputFiles(files);
    if (files.length > 1) return;
    await this.page.waitForURL(/\/job\//);
    await this.settled();
  }

  /** Until every pixel on the screen is up to date, nothing is being computed and all is kept. */
  async settled(): Promise<void> {
    await this.page.waitForFunction(
      () =>
        window.bench?.isOpen &&
        window.bench.view?.settled &&
        !window.bench.unkept &&
        !window.bench.painting.isLive &&
        !window.bench.busy &&
        Object.keys(window.bench.state.tasks).length === 0,
      null,
      { timeout: 60_000 },
    );
    await this.page.evaluate(
      () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))),
    );
  }

  /** Where a point of the photo is on the screen. */
  async at(x: number, y: number): Promise<[number, number]> {
    return this.page.evaluate(
      ([px, py]) => {
        const { camera } = window.bench!.view!;
        const box = document.querySelector('canvas')!.getBoundingClientRect();
        return [
          box.left + box.width / 2 + (px - camera.x) * camera.zoom,
          box.top + box.height / 2 + (py - camera.y) * camera.zoom,
        ];
      },
      [x, y],
    );
  }

  async moveTo(x: number, y: number): Promise<void> {
    await this.page.mouse.move(...(await this.at(x, y)));
  }

  /** Presses at the first point, moves over the others, lets go at the last. */
  async drag(
    points: readonly (readonly [number, number])[],
    options: { letGo?: boolean } = {},
  ): Promise<void> {
    const { mouse } = this.page;
    await this.moveTo(...points[0]);
    await mouse.down();
    for (const point of points.slice(1)) {
      const [x, y] = await this.at(...point);
      await mouse.move(x, y, { steps: 4 });
    }
    if (options.letGo !== false) await mouse.up();
  }

  async clickAt(x: number, y: number, modifier?: 'Alt' | 'Shift'): Promise<void> {
    if (modifier) await this.page.keyboard.down(modifier);
    await this.page.mouse.click(...(await this.at(x, y)));
    if (modifier) await this.page.keyboard.up(modifier);
  }

  async press(...keys: string[]): Promise<void> {
    for (const key of keys) await this.page.keyboard.press(key);
  }

  /** Sets a number of a panel by typing. */
  async setNumber(panel: string, label: string, value: number): Promise<void> {
    const field = this.page
      .getByRole(panel === 'rail' ? 'contentinfo' : 'complementary', panel === 'rail' ? {} : { name: panel })
      .getByLabel(label, { exact: true })
      .and(this.page.locator('input'));
    await field.fill(String(value));
    await field.press('Enter');
  }

  /** Exports through the dialog and returns the file. */
  async exportAs(kind: 'PNG' | 'JPEG' | 'WebP' | 'Whole job'): Promise<Buffer> {
    await this.page.getByRole('button', { name: 'Export', exact: true }).click();
    await this.page.getByRole('radio', { name: new RegExp(`^${kind}`) }).click();
    const downloading = this.page.waitForEvent('download');
    await this.page.getByRole('button', { name: 'Write file' }).click();
    const download = await downloading;
    await expect(this.page.getByRole('dialog').getByRole('status')).toContainText('was written');
    const bytes = await readFile(await download.path());
    await this.page.getByRole('button', { name: 'Close' }).click();
    return bytes;
  }

  async exportPng(): Promise<Raster> {
    return decodePng(new Uint8Array(await this.exportAs('PNG')));
  }

  /** Colour of the screen's pixel at a point of the photo. */
  async shown(x: number, y: number): Promise<number[]> {
    const [px, py] = await this.at(x, y);
    return this.page.evaluate(
      ([sx, sy]) => {
        const canvas = document.querySelector('canvas')!;
        const box = canvas.getBoundingClientRect();
        return [
          ...canvas
            .getContext('2d')!
            .getImageData(sx - box.left, sy - box.top, 1, 1)
            .data.slice(0, 3),
        ];
      },
      [px, py],
    );
  }

  get undoButton() {
    return this.page.getByRole('button', { name: /^Undo/ });
  }

  mends() {
    return this.page.getByRole('complementary', { name: 'Mends' }).getByRole('listitem');
  }
}

export const pixelOf = (r: Raster, x: number, y: number): number[] => [
  ...r.data.subarray((y * r.width + x) * 4, (y * r.width + x) * 4 + 3),
];

/** The mends of the open job, from the lowest layer up. */
export const mends = (bench: BenchPage) =>
  bench.page.evaluate(() => window.bench!.state.job!.layers.flatMap((l) => l.mends));
