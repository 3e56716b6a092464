import { inBrowser, settled, takeIn } from './browser';
import { largeJob } from './photos';
import { quiet } from './quiet';
import { aimed, headline, line, ms, type Spread, spreadOf } from './report';

/** The machine may be busier in one minute than in the next: of so many rounds the middle one counts. */
const rounds = 3;
/** In a tab's first ones the browser still compiles beside them. */
const strokesEach = 8;

/** From a pointer event to the frame that shows its pixels, while brushes of several sizes paint on 24 megapixels. */
export async function benchStroke(): Promise<void> {
  headline('Painting on 24 megapixels: pointer to pixel');
  const spreads: Record<string, Spread> = {};
  for (const method of ['clone', 'heal'] as const)
    for (const [sizePx, mends] of [
      [4, 0],
      [200, 0],
      [50, 200],
      [200, 200],
      [500, 200],
    ]) {
      const painted: { first: Spread; later: Spread }[] = [];
      const slower: number[] = [];
      for (let round = 0; round < rounds; round++) {
        slower.push(await quiet());
        const { first, later } = await paint(await largeJob(mends), method, sizePx);
        painted.push({ first: spreadOf(first), later: spreadOf(later) });
      }
      const { first, later } = painted.toSorted((a, b) => a.later.p95 - b.later.p95)[rounds >> 1];
      spreads[`${method}${sizePx}/${mends}`] = later;
      line(
        `${method}, ${sizePx} px, ${mends} mends below`,
        `median ${ms(later.median)}, p95 ${ms(later.p95)}, ${later.count} frames; first stroke of the tab: p95 ${ms(first.p95)}`,
      );
      line(
        '  p95 in rounds; machine slower than at its best',
        `${painted.map((round) => ms(round.later.p95)).join(', ')}; ${slower.map((s) => `${s.toFixed(2)} times`).join(', ')}`,
      );
    }
  // With a brush that changes next to nothing, what is left is the browser's and the machine's.
  line(
    'clone, 200 px over 4 px, median',
    (spreads['clone200/200'].median / spreads['clone4/0'].median).toFixed(2),
  );
  line(
    'heal, 200 px over 4 px, median',
    (spreads['heal200/200'].median / spreads['heal4/0'].median).toFixed(2),
  );
  aimed('clone, 200 px, 200 mends below, p95 in ms', spreads['clone200/200'].p95, 16, 1);
  aimed('heal, 200 px, 200 mends below, p95 in ms', spreads['heal200/200'].p95, 33, 1);
  aimed('clone, 500 px, 200 mends below, p95 in ms', spreads['clone500/200'].p95, 16, 1);
  aimed('heal, 500 px, 200 mends below, p95 in ms', spreads['heal500/200'].p95, 33, 1);
  aimed('clone, p95 with 200 mends over none', spreads['clone200/200'].p95 / spreads['clone200/0'].p95, 1.2);
}

/** Frames of a tab's first stroke, for which the browser compiles most on the way, and of its later ones. */
async function paint(
  file: string,
  method: 'clone' | 'heal',
  sizePx: number,
): Promise<{ first: number[]; later: number[] }> {
  return inBrowser(async (page, url) => {
    await takeIn(page, url, file);
    await page.locator('canvas').first().focus();
    await page.keyboard.press('Control+1');
    await page.keyboard.press(method === 'clone' ? '3' : '4');
    await page.keyboard.press('q');
    await page.evaluate((size) => window.bench!.setNext({ sizePx: size }), sizePx);
    await settled(page);
    const box = (await page.locator('canvas').first().boundingBox())!;
    const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.keyboard.down('Alt');
    await page.mouse.click(cx + 150, cy + 90);
    await page.keyboard.up('Alt');
    await page.mouse.move(cx - 200, cy - 100);
    await settled(page);
    const strokes: number[][] = [];
    for (let stroke = 0; stroke < strokesEach; stroke++) {
      await page.evaluate(() => {
        window.bench!.view!.strokeTimings = [];
      });
      const y = cy - 150 + 60 * (stroke % 4);
      await page.mouse.move(cx - 220, y);
      await page.mouse.down();
      for (let i = 0; i < 60; i++) {
        await page.mouse.move(cx - 220 + 7 * i, y + 40 * Math.sin(i / 6));
        await page.waitForTimeout(12);
      }
      await page.mouse.up();
      await settled(page);
      strokes.push(await page.evaluate(() => window.bench!.view!.strokeTimings!));
    }
    return { first: strokes[0], later: strokes.slice(1).flat() };
  });
}
