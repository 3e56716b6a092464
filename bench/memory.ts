import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { inBrowser, settled, takeIn } from './browser';
import { largeJob } from './photos';
import { aimed, headline, line } from './report';

/** Peak resident memory of the page's process, over what it holds with an empty shelf, against the photo's raw size. */
export async function benchMemory(): Promise<void> {
  headline('Memory: a 24-megapixel job with 200 mends, opened, painted on and exported');
  const job = await largeJob(200);
  await inBrowser(async (page, url) => {
    await page.goto(url);
    const before = peakOfRenderers();
    await takeIn(page, url, job);
    const taken = peakOfRenderers();
    await page.goto('about:blank');
    await page.waitForTimeout(1500);
    forgetPeaks();
    await page.goBack();
    await settled(page);
    await page.locator('canvas').first().focus();
    for (const key of ['Control+1', '-', '-', '-', '+', '+']) {
      await page.keyboard.press(key);
      await settled(page);
    }
    const opened = peakOfRenderers();
    await page.getByRole('button', { name: 'Export' }).click();
    const downloading = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Write file' }).click();
    await downloading;
    const exported = peakOfRenderers();
    const raw = 6000 * 4000 * 4;
    const mb = (v: number) => `${(v / 1e6).toFixed(0)} MB`;
    line('raw size of the photo', mb(raw));
    line('empty shelf', mb(before));
    line('taken in from a job file', mb(taken));
    line('opened and looked at', mb(opened));
    line('after a PNG export', mb(exported));
    aimed('opened, over raw', (opened - before) / raw, 4);
    aimed('with export, over raw', (exported - before) / raw, 4);
  });
}

const renderers = (): string[] =>
  readdirSync('/proc').filter((pid) => {
    try {
      return /^\d+$/.test(pid) && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer');
    } catch {
      return false;
    }
  });

/** Lets the highest sizes start again from the present ones. */
function forgetPeaks(): void {
  for (const pid of renderers()) writeFileSync(`/proc/${pid}/clear_refs`, '5');
}

/** Highest resident size so far of the largest renderer process. */
function peakOfRenderers(): number {
  let most = 0;
  for (const pid of renderers()) {
    const peak = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
    if (peak) most = Math.max(most, Number(peak[1]) * 1024);
  }
  return most;
}
