import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { noMasks } from '../src/core/area';
import { Evaluator } from '../src/core/evaluate';
import { encodePng } from '../src/core/formats';
import { methods } from '../src/core/methods';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { outFile, texture } from './photos';
import { aimed, headline, line, ms, spreadOf, timed, told } from './report';

const sizes = [200, 400, 700];
const aims: Record<number, number> = { 400: 0.25, 700: 0.05 };

/** Heal of an ellipse against native seamlessClone of the same pixels, both on one thread. */
export async function benchHeal(): Promise<void> {
  headline('Heal against native seamlessClone');
  const photo = texture(1600, 1200);
  const mine = new Map<number, number>();
  for (const size of sizes) {
    const points = Array.from({ length: 180 }, (_, k) => {
      const a = (k / 180) * 2 * Math.PI;
      return [500 + (size / 2) * Math.cos(a), 500 + (size / 2) * Math.sin(a)] as const;
    });
    const mend = mendOf('heal', areaOfShapes([{ kind: 'polygon', op: 'add', points }]), { dx: 560, dy: 90 });
    const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
    evaluator.setJob(jobOf(photo, [layerOf([])]));
    const context = evaluator.contextOf(mend);
    const output = methods.heal.affectedOutput(mend, evaluator.bounds);
    const spread = spreadOf(await timed(7, () => methods.heal.evaluate(mend, output, context)));
    mine.set(size, spread.median);
    line(`heal, ${size} px across`, told(spread));
  }
  aimed('growth, 700 px over 400 px (3.06× the area)', mine.get(700)! / mine.get(400)!, 3.5);
  const native = seamlessClone(photo);
  if (!native) {
    line('seamlessClone', 'absent. npm run bench -- heal --install puts python3-opencv on this machine.');
    return;
  }
  for (const size of sizes) {
    line(`seamlessClone, ${size} px across`, ms(native[size]));
    if (aims[size]) aimed(`heal over seamlessClone, ${size} px`, mine.get(size)! / native[size], aims[size]);
  }
}

function seamlessClone(photo: ReturnType<typeof texture>): Record<number, number> | null {
  if (process.argv.includes('--install'))
    spawnSync('apt-get', ['install', '-y', '-qq', 'python3-opencv'], { stdio: 'inherit' });
  const file = outFile('heal.png');
  writeFileSync(file, encodePng(photo));
  const script = `
import cv2, json, sys, time, numpy as np
cv2.setNumThreads(1)
im = cv2.imread(sys.argv[1]); out = {}
for s in ${JSON.stringify(sizes)}:
    m = np.zeros(im.shape[:2], np.uint8); cv2.ellipse(m, (500 + 560, 500 + 90), (s // 2, s // 2), 0, 0, 360, 255, -1)
    y, x = 590 - s // 2 - 2, 1060 - s // 2 - 2
    src = im[y:y + s + 4, x:x + s + 4]; mm = m[y:y + s + 4, x:x + s + 4]
    ts = []
    for k in range(4):
        t = time.perf_counter(); cv2.seamlessClone(src, im, mm, (500, 500), cv2.NORMAL_CLONE); ts.append(time.perf_counter() - t)
    out[s] = sorted(ts[1:])[1] * 1000
print(json.dumps(out))`;
  const done = spawnSync('/usr/bin/python3', ['-c', script, file], { encoding: 'utf8' });
  return done.status === 0 ? (JSON.parse(done.stdout) as Record<number, number>) : null;
}
