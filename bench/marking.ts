import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  gestures,
  grownThings,
  handStrays,
  hardThings,
  measureGesture,
  measureGrow,
  measureLettering,
  measureSpan,
  spans,
} from '../demo/marks/measure';
import { openDemo } from '../demo/marks/photos';
import scribbles from '../demo/marks/scribbles.json';
import { measureSweep, sweepOptions, sweeps } from '../demo/marks/sweep';
import type { SceneFacts } from '../demo/toolkit/facts';
import { rasteriseArea, trimMask } from '../src/core/area';
import { decodeMask } from '../src/core/formats';
import type { Job, Mend, MethodId } from '../src/core/job';
import { growScribbles, markedArea, outlookOf, pickColour, seenOf, sweep } from '../src/core/marking';
import { methods } from '../src/core/methods';
import { areaOfShapes, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { decodePicture } from '../src/headless/node-codecs';
import { Engine } from '../src/runtime/engine/engine';
import { runFill } from '../src/runtime/pool/fill-job';
import { largeJpeg } from './photos';
import { headline, line, ms, spreadOf, timed, told } from './report';
import { score } from './scoring/score';

const share = (v: number) => v.toFixed(3);

/** Marks on the demo photographs against the known masks. */
export async function benchMarking(): Promise<void> {
  headline('Grow from a scribble, and after one and two corrections (IoU; aims 0.92, 0.97; under 500 ms)');
  const grown: Awaited<ReturnType<typeof measureGrow>>[] = [];
  for (const name of grownThings) {
    const one = await measureGrow(name);
    grown.push(one);
    line(name, `${one.iou.map(share).join('  ')}   ${one.ms.map(ms).join(', ')}`);
  }
  const mean = (k: number) => grown.reduce((s, g) => s + g.iou[k], 0) / grown.length;
  line('mean', [0, 1, 2].map((k) => share(mean(k))).join('  '));
  const byHand = await Promise.all(grownThings.map((name) => measureGrow(name, handStrays)));
  line(
    'mean, by a hand that strays',
    [0, 1, 2].map((k) => share(byHand.reduce((s, g) => s + g.iou[k], 0) / byHand.length)).join('  '),
  );
  for (const gesture of gestures)
    line(`apples and casks beside their like, one ${gesture}`, share(await measureGesture(gesture)));
  for (const name of hardThings) {
    const { iou, ms: took } = await measureGrow(name);
    line(`hard: ${name}`, `${iou.map(share).join('  ')}   ${took.map(ms).join(', ')}`);
  }

  headline('Grow of a 630 px thing on 24 megapixels (aim under 500 ms)');
  const large = seenOf(await decodePicture(largeJpeg().bytes));
  const by = large.width / 2400;
  const { radiusPx, inside } = scribbles['press-house/sign'];
  const strokes = inside.map((points) => ({
    kind: 'stroke' as const,
    op: 'add' as const,
    hardness: 1,
    radiusPx: radiusPx * by,
    points: points.map(([x, y]) => [x * by, y * by, 1] as const),
  }));
  line(
    'the sign',
    told(spreadOf(await timed(5, () => growScribbles(large, { inside: strokes, outside: [] })))),
  );
  const whole = { x: 0, y: 0, w: large.width, h: large.height };
  line(
    'sweep of all of it',
    told(
      spreadOf(await timed(1, () => sweep(large, sweepOptions({ light: true, dark: false }), whole, null))),
    ),
  );
  const pick = { x: 4000, y: 800, tolerance: 20, everywhere: true };
  line('pick everywhere', told(spreadOf(await timed(2, () => pickColour(large, pick, 0)))));

  headline('Span, margin 2 (share of the line marked; aim 0.98)');
  for (const { says, scene, thing, clicks, options, within } of spans) {
    const { recall, lines, ms: took } = await measureSpan(scene, thing, clicks, options, within);
    line(says, `${share(recall)}, ${lines} found   ${ms(took)}`);
  }

  headline('Pick by colour, everywhere (aim 0.98)');
  const lettering = await measureLettering();
  line('the banner’s lettering', `${share(lettering.recall)}   ${ms(lettering.ms)}`);

  headline('Sweep (faults that can be seen; aims 95 % found, 5 % false)');
  for (const { says, scene, faults, others, ...kinds } of sweeps)
    for (const sensitivity of [30, 50, 70]) {
      const s = await measureSweep(scene, faults, others, sweepOptions(kinds, sensitivity));
      line(
        `${says}, sensitivity ${sensitivity}`,
        `${s.found} of ${s.of} found, ${(100 * s.falseShare).toFixed(0)} % of ${s.candidates} false   ${ms(s.ms)}`,
      );
    }
  await benchOutlook();
}

const photos = join(import.meta.dirname, '..', 'demo', 'photos');
const contenders: readonly MethodId[] = ['tap', 'fill', 'clone', 'heal', 'patch'];

/** Whether the method that the outlook suggests is among the two best, by what comes out against the truth. */
async function benchOutlook(): Promise<void> {
  headline('Outlook: the suggested method among the two best by the truth (aim 80 %)');
  let good = 0;
  let all = 0;
  for (const id of readdirSync(photos)) {
    const read = (file: string) => new Uint8Array(readFileSync(join(photos, id, file)));
    const facts: SceneFacts = JSON.parse(readFileSync(join(photos, id, 'scene.json'), 'utf8'));
    const { photo, seen } = await openDemo(id);
    const truth = await decodePicture(read('truth.jpg'));
    for (const thing of facts.things) {
      if (!existsSync(join(photos, id, thing.mask))) continue;
      const { mask, x, y } = trimMask(decodeMask(read(thing.mask)));
      if (mask.w * mask.h > 500_000) continue;
      const area = areaOfShapes(
        [{ kind: 'mask', op: 'add', x, y, w: mask.w, h: mask.h, maskId: 'thing' }],
        7,
        2,
      );
      const outlook = outlookOf(
        seen,
        markedArea(area, () => mask),
        null,
      );
      const method = outlook?.suggestions.find((s) => contenders.includes(s.what as MethodId))?.what;
      const whole = { x: 0, y: 0, w: photo.width, h: photo.height };
      const inside = Uint8Array.from(
        rasteriseArea(area, whole, () => mask),
        (v) => (v > 0.5 ? 1 : 0),
      );
      const scores = contenders
        .map((candidate) => {
          const picture = mended(photo, candidate, area, mask);
          if (!picture) return { candidate, total: Infinity };
          const s = score(picture, truth, inside);
          return { candidate, total: s.tex + 0.5 * Math.abs(s.sharp) + 0.5 * Math.abs(s.seam) };
        })
        .sort((a, b) => a.total - b.total);
      // Methods that come to the same (heal and patch from one source, say) share a place.
      const places: number[] = [];
      for (const { total } of scores) if (!places.some((t) => total < t * 1.01)) places.push(total);
      const limit = (places[1] ?? places[0]) * 1.01;
      const isGood = scores.some((s) => s.candidate === method && s.total <= limit);
      all++;
      if (isGood) good++;
      line(
        `${id}, ${thing.id}`,
        `${method} ${isGood ? 'yes' : 'no'}   ${scores.map((s) => `${s.candidate} ${s.total.toFixed(2)}`).join('  ')}`,
      );
    }
  }
  line('among the two best', `${good} of ${all}: ${((100 * good) / all).toFixed(0)} %`);
}

function mended(
  photo: Parameters<typeof jobOf>[0],
  method: MethodId,
  area: Mend['area'],
  mask: { w: number; h: number; data: Uint8Array },
) {
  const engine = new Engine(photo, 'photo');
  engine.addPixels([], [{ id: 'thing', mask }]);
  const plain = mendOf(
    method,
    area,
    null,
    methods[method].scope === 'kept' ? { tries: [{ id: 't', seed: 1 }], chosenTry: 't' } : {},
  );
  const set = (mend: Mend): Job => {
    const job = jobOf(photo, [layerOf([mend])]);
    engine.setJob(job);
    return job;
  };
  set({ ...plain, visible: false });
  if (methods[method].scope === 'kept') {
    const { input, inputKey } = engine.fillInput(plain, 't');
    const { rect, data } = runFill({ input, depth: 8 });
    engine.addPixels([{ tryId: 't', ...rect, data, inputKey }], []);
    set(plain);
  } else {
    const [source] = engine.findSources(plain);
    if (!source) return null;
    set({ ...plain, source });
  }
  return engine.flatten(() => {});
}
