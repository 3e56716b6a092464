import { addMend, type Mend, transact } from '../src/core/job';
import { tilesIn } from '../src/core/raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf, strokeShape } from '../src/core/testing/jobs';
import { decodePicture } from '../src/headless/node-codecs';
import { Engine } from '../src/runtime/engine/engine';
import { largeJpeg } from './photos';
import { aimed, headline, line, spreadOf, timed, told } from './report';

/** What the interface waits for while a source is looked for and dragged, on 24 megapixels, in one thread. */
export async function benchSources(): Promise<void> {
  headline('Looking for sources and dragging a patch on 24 megapixels');
  const photo = await decodePicture(largeJpeg().bytes);
  const engine = new Engine(photo, 'photo');
  const layer = layerOf([]);
  const job = jobOf(photo, [layer]);
  engine.setJob(job);
  const spot = (method: Mend['method'], size: number, more: Partial<Mend> = {}) =>
    mendOf(
      method,
      areaOfShapes([boxShape(2700, 2400, size, size)], 0, 4),
      { dx: 700, dy: 40 },
      { params: {}, ...more },
    );
  const map = spreadOf(await timed(7, () => engine.sourceMap(spot('heal', 300))));
  line('source map for a 300 px area', told(map));
  aimed('source map, median in ms', map.median, 300, 0);
  line(
    'match figures, 200 px brush',
    told(spreadOf(await timed(9, () => engine.matchFigures(spot('clone', 200))))),
  );
  line(
    'best sources, 300 px area',
    told(spreadOf(await timed(5, () => engine.findSources(spot('heal', 300))))),
  );
  let step = 0;
  const size = 500;
  const bounds = { x: 0, y: 0, w: photo.width, h: photo.height };
  const wanted = tilesIn({ x: 2700, y: 2400, w: size, h: size }, bounds).map((tile) => ({
    side: 'after' as const,
    level: 0,
    tile,
    have: null,
  }));
  // As the interface sends them: what each step of the drag changes.
  const previews = Array.from({ length: 40 }, (_, k) => {
    const made = spot('patch', size, { id: 'patch', source: { dx: 700 + 3 * k, dy: 40 } });
    return transact(job, addMend(layer.id, made))!.transaction.forward;
  });
  const drag = () => {
    engine.previewJob(previews[step++ % previews.length]);
    return engine.tiles(wanted);
  };
  const patch = spreadOf(await timed(20, drag));
  engine.previewJob(null);
  line('one step of dragging a 500 px patch, tiles at 1:1', told(patch));
  aimed('patch preview, median in ms', patch.median, 33, 0);
  const turned = spreadOf(
    await timed(7, () => {
      const mend = mendOf('clone', areaOfShapes([strokeShape([[2800, 2500]], 100)]), {
        dx: 500 + step++,
        dy: 10,
        turnDeg: 12,
      });
      engine.setJob(jobOf(photo, [layerOf([mend])]));
      return engine.crop('after', { x: 2700, y: 2400, w: 200, h: 200 }, 400);
    }),
  );
  line('a 200 px dab of a turned clone', told(turned));
}
