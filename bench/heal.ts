import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { keptOut, measureSmears, smearScenes, summed } from '../demo/heals/smear';
import { noMasks } from '../src/core/area';
import { Evaluator } from '../src/core/evaluate';
import { encodePng } from '../src/core/formats';
import { methods } from '../src/core/methods';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { outFile, texture } from './photos';
import { aimed, headline, line, spreadOf, timed, told } from './report';

const sizes = [200, 400, 700];
const aims: Record<number, number> = { 400: 0.25, 700: 0.05 };

/** The machine may be faster in one minute than in the next: both take turns, and of each turn the fastest run counts, which was
 *  disturbed least. */
const rounds = 5;
const runs = 9;

/** Heal of an ellipse against native seamlessClone of the same pixels, both on one thread. */
export async function benchHeal(): Promise<void> {
  headline('Heal against native seamlessClone');
  const photo = texture(1600, 1200);
  const took = new Map(sizes.map((size) => [size, [] as number[]]));
  const ratios = new Map(sizes.map((size) => [size, [] as number[]]));
  for (let round = 0; round < rounds; round++) {
    const native = seamlessClone(photo);
    for (const size of sizes) {
      const { low } = spreadOf(await timed(runs, healOf(photo, size)));
      took.get(size)!.push(low);
      if (native) ratios.get(size)!.push(low / native[size]);
    }
  }
  for (const size of sizes)
    line(`heal, ${size} px across, fastest of ${runs}`, told(spreadOf(took.get(size)!)));
  const growth = spreadOf(took.get(700)!.map((ms, k) => ms / took.get(400)![k])).median;
  aimed('growth, 700 px over 400 px (3.06× the area)', growth, 3.5);
  if (ratios.get(400)!.length === 0)
    line('seamlessClone', 'absent. npm run bench -- heal --install puts python3-opencv on this machine.');
  for (const [size, list] of ratios) {
    if (!aims[size] || list.length === 0) continue;
    aimed(`heal over seamlessClone, ${size} px`, spreadOf(list).median, aims[size]);
    line('  in turns', list.map((v) => v.toFixed(2)).join(', '));
  }
  await benchStops();
}

/** How much of the tone that smears in from known things the stop lines keep out that are found. */
async function benchStops(): Promise<void> {
  const scenes = await Promise.all(Object.keys(smearScenes).map(measureSmears));
  const things = summed(scenes.map(({ besideThings }) => besideThings));
  const plain = summed(scenes.map(({ elsewhere }) => elsewhere));
  for (const [says, pick] of [
    ['offered', 'offered'],
    ['asked for', 'asked'],
  ] as const) {
    const share = keptOut(things, things[pick]);
    line(`stop lines ${says}, of what smears in kept out`, `${(100 * share).toFixed(0)} %`);
    line(
      '  to so many heals beside things, elsewhere',
      `${things[pick].count} of ${things.count}, ${plain[pick].count} of ${plain.count}`,
    );
  }
}

function healOf(photo: ReturnType<typeof texture>, size: number): () => unknown {
  const points = Array.from({ length: 180 }, (_, k) => {
    const a = (k / 180) * 2 * Math.PI;
    return [500 + (size / 2) * Math.cos(a), 500 + (size / 2) * Math.sin(a)] as const;
  });
  const mend = mendOf('heal', areaOfShapes([{ kind: 'polygon', op: 'add', points }]), { dx: 560, dy: 90 });
  const evaluator = new Evaluator(photo, 'photo', { masks: noMasks, tries: () => undefined });
  evaluator.setJob(jobOf(photo, [layerOf([])]));
  const context = evaluator.contextOf(mend);
  const output = methods.heal.affectedOutput(mend, evaluator.bounds);
  return () => methods.heal.evaluate(mend, output, context);
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
    for k in range(${runs}):
        t = time.perf_counter(); cv2.seamlessClone(src, im, mm, (500, 500), cv2.NORMAL_CLONE); ts.append(time.perf_counter() - t)
    out[s] = min(ts) * 1000
print(json.dumps(out))`;
  const done = spawnSync('/usr/bin/python3', ['-c', script, file], { encoding: 'utf8' });
  return done.status === 0 ? (JSON.parse(done.stdout) as Record<number, number>) : null;
}
