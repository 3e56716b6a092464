import type { Page } from '@playwright/test';
import { inBrowser, takeIn } from './browser';
import { largeJpeg } from './photos';
import { aimed, headline, line, ms, spreadOf, told } from './report';

const runs = 5;

/** From opening a kept job to its first pixels on the screen, against the browser's bare decode and draw of the same
 *  bytes in the same page. */
export async function benchOpen(): Promise<void> {
  headline('Open a 24-megapixel JPEG');
  const { file } = largeJpeg();
  await inBrowser(async (page, url) => {
    await takeIn(page, url, file);
    const job = page.url();
    const bare: number[] = [];
    const first: number[] = [];
    const whole: number[] = [];
    for (let i = 0; i <= runs; i++) {
      const b = await bareDecode(page);
      await page.goto('about:blank');
      await page.goto(job);
      await page.waitForFunction(() => window.bench?.isOpen && window.bench.view?.settled);
      const marks = await page.evaluate(() => ({
        opened: performance.getEntriesByName('open-began')[0].startTime,
        first: performance.getEntriesByName('first-pixels')[0].startTime,
        now: performance.now(),
      }));
      // The first round warms caches and does not count.
      if (i === 0) continue;
      bare.push(b);
      first.push(marks.first - marks.opened);
      whole.push(marks.now - marks.opened);
    }
    line('bare decode and draw', told(spreadOf(bare)));
    line('to the first pixels', told(spreadOf(first)));
    line('to everything sharp and editable', ms(spreadOf(whole).median));
    aimed('first pixels over bare decode', spreadOf(first).median / spreadOf(bare).median, 1.5);
  });
}

/** The stored file through createImageBitmap and drawImage, until a pixel can be read back. */
const bareDecode = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const file = await new Promise<Blob>((resolve) => {
      const open = indexedDB.open('vine-needle');
      open.onsuccess = () => {
        const get = open.result.transaction('originals').objectStore('originals').getAll();
        get.onsuccess = () => {
          open.result.close();
          resolve(get.result[0].file);
        };
      };
    });
    const start = performance.now();
    const bitmap = await createImageBitmap(file);
    const canvas = new OffscreenCanvas(780, 520);
    const context = canvas.getContext('2d')!;
    context.drawImage(bitmap, 0, 0, 780, 520);
    context.getImageData(0, 0, 1, 1);
    bitmap.close();
    return performance.now() - start;
  });
