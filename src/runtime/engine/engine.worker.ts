import { InvariantError } from '../../core/errors';
import { pixelsDigest } from '../../core/formats';
import { buffersOf } from '../../core/methods/fill/compute';
import { browserCodecs } from '../codecs/browser-codecs';
import { encodeFlat } from '../codecs/flat-picture';
import { Handover, serve } from '../rpc';
import { decodePhoto } from './decode-photo';
import { Engine } from './engine';
import type { EngineProtocol, TilePixels } from './protocol';
import { rehearseStrokes } from './rehearsal';

let engine: Engine | null = null;

function need(): Engine {
  if (!engine) throw new InvariantError('No photo is open.');
  return engine;
}

const withBuffers = (tiles: TilePixels[]): Handover<TilePixels[]> =>
  new Handover(
    tiles,
    tiles.flatMap((t) => (t.data ? [t.data.buffer] : [])),
  );

serve<EngineProtocol>(self, {
  async open({ file, wantHash }, progress) {
    const photo = await decodePhoto(file, (preview) => progress({ preview }, [preview]));
    const pixelsSha256 = wantHash ? await pixelsDigest(photo.data) : '';
    engine = new Engine(photo, 'photo');
    const { width, height, depth } = photo;
    return { width, height, depth, levels: engine.display.pyramid.length, pixelsSha256 };
  },
  setJob: ({ job }) => {
    need().setJob(job);
    return null;
  },
  patchJob: ({ patches }) => {
    need().patchJob(patches);
    return null;
  },
  previewJob: ({ patches }) => {
    need().previewJob(patches);
    return null;
  },
  addPixels: ({ tries, masks }) => {
    need().addPixels(tries, masks);
    return null;
  },
  tiles: ({ wanted }) => withBuffers(need().tiles(wanted)),
  beginStroke: ({ mend, layerId }) => {
    need().beginStroke(mend, layerId);
    return null;
  },
  extendStroke: ({ points, level }) => withBuffers(need().extendStroke(points, level)),
  settleStroke: ({ level }) => withBuffers(need().settleStroke(level)),
  endStroke: () => {
    need().endStroke();
    return null;
  },
  rehearse: async ({ job, mends }) => {
    await rehearseStrokes(job, mends, async () => {
      await new Promise((done) => setTimeout(done));
      return !need().isPainting;
    });
    return null;
  },
  mendStates: () => need().mendStates(),
  fillInput: ({ mend, tryId }) => {
    const reply = need().fillInput(mend, tryId);
    return new Handover(reply, buffersOf(reply.input));
  },
  findSources: ({ mend }) => need().findSources(mend),
  sourceMap: ({ mend }) => {
    const map = need().sourceMap(mend);
    return new Handover(map, [map.score.buffer as ArrayBuffer]);
  },
  matchFigures: ({ mend }) => need().matchFigures(mend),
  likelyStops: ({ mend, isAsked }) => need().likelyStops(mend, isAsked),
  pickColour: ({ pick, level }) => need().marking.pick(pick, level),
  growScribbles: ({ scribbles }) => need().marking.grow(scribbles),
  findSpan: ({ clicks, options }) => need().marking.span(clicks, options),
  belongings: ({ area }) => need().marking.belongings(area),
  outlook: ({ mend }) => need().outlook(mend),
  islands: ({ area, cuts }) => need().marking.islands(area, cuts),
  sweep: ({ options, within }, progress) =>
    need().marking.sweep(options, within, (share) => progress({ share })),
  stopSweep: () => {
    need().marking.stopSweep();
    return null;
  },
  pickPaint: ({ x, y, radiusPx }) => need().pickPaint(x, y, radiusPx),
  heldTries: ({ ids }) => need().heldTries(ids),
  staleTries: ({ mend }) => need().staleTries(mend),
  crop: async ({ side, rect, maxSidePx, instead }) => {
    const { width, height, data } = instead
      ? need().cropInstead(instead, rect, maxSidePx)
      : need().crop(side, rect, maxSidePx);
    const canvas = new OffscreenCanvas(width, height);
    canvas.getContext('2d')!.putImageData(new ImageData(data, width, height), 0, 0);
    return canvas.convertToBlob({ type: 'image/jpeg', quality: 0.85 });
  },
  flatten: async (format, progress) => {
    const picture = need().flatten((share) => progress({ share }));
    const bytes = await encodeFlat(picture, format, browserCodecs);
    return new Handover(bytes, [bytes.buffer]);
  },
});
