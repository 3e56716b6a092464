import { photograph, softnessPx } from './camera';
import { castBy } from './cast';
import { defocus, depthOf } from './focus';
import { blur, type ColourGrid, type Grid, makeGrid, toEncoded } from './grid';
import { type Region, render, type Size } from './povray';
import type { Measures, Scene } from './scene';

/** A finished pair of photographs, encoded 0…1, and where each unwanted thing is. */
export interface Shot {
  readonly photo: ColourGrid;
  readonly truth: ColourGrid;
  readonly things: readonly {
    readonly id: string;
    readonly says: string;
    /** 1 where a pixel of the photograph shows a trace of the thing. */
    readonly object: Grid;
    /** 1 where its shadow or reflection is, and the thing is not. */
    readonly cast: Grid | null;
  }[];
}

/** Renders a scene and takes its photograph with and without the unwanted things. */
export function shoot(scene: Scene, measures: Measures, work: string, size: Size): Shot {
  return scene.faults ? shootPrint(scene, measures, work, size) : shootPair(scene, measures, work, size);
}

function shootPair(scene: Scene, measures: Measures, work: string, size: Size): Shot {
  const coverages = scene.things.map(
    (thing) => render(scene, measures, { is: 'mask', thing: thing.id }, work, size)[0],
  );
  const cluttered = render(scene, measures, { is: 'picture', cluttered: true }, work, size);
  const { w, h } = cluttered[0];
  // Only where things, their shadows and reflections are need the clean picture be rendered at full size.
  const region = regionOf(scene, measures, work, coverages);
  const part = render(scene, measures, { is: 'picture', cluttered: false }, work, size, region);
  const clean = eachPlane(
    w,
    h,
    (c, i) => (within(region, i % w, Math.floor(i / w)) ? part[c] : cluttered[c]).data[i],
  );
  // The truth is the cluttered light wherever the two renders agree, so that nothing else can differ.
  const changed = differenceMask(cluttered, clean);
  const truthLight = eachPlane(w, h, (c, i) => (changed.data[i] > 0 ? clean : cluttered)[c].data[i]);
  const seen = throughLens(scene, measures, work, size, { cluttered, truth: truthLight, coverages, changed });
  const casts = castBy(scene.lens.focus ? differenceMask(seen.cluttered, seen.truth) : changed, seen.objects);
  return {
    photo: photograph(seen.cluttered, seen.truth, scene.lens),
    truth: photograph(seen.truth, seen.truth, scene.lens),
    things: scene.things.map((thing, k) => ({
      ...thing,
      object: seen.objects[k],
      cast: casts[k].data.some((v) => v > 0) ? casts[k] : null,
    })),
  };
}

/** One photograph, and the same on damaged paper. */
function shootPrint(scene: Scene, measures: Measures, work: string, size: Size): Shot {
  const light = render(scene, measures, { is: 'picture', cluttered: false }, work, size);
  const { w, h } = light[0];
  const { focus } = scene.lens;
  const depth = focus
    ? depthOf(render(scene, measures, { is: 'depth', cluttered: false }, work, size))
    : null;
  const seen =
    depth && focus ? coloursOf(defocus(light, depth, focus.distance, (focus.farPx * w) / 2400)) : light;
  const truth = photograph(seen, seen, scene.lens);
  const faults = scene.faults?.(w, h) ?? [];
  const photo = eachPlane(w, h, (c, i) =>
    faults.reduce((v, f) => v + (f.tone - v) * f.cover.data[i], truth[c].data[i]),
  );
  return {
    photo,
    truth,
    things: faults.map(({ id, says, cover }) => ({
      id,
      says,
      object: makeGrid(w, h, (_x, _y, i) => (cover.data[i] > 0.02 ? 1 : 0)),
      cast: null,
    })),
  };
}

/** The share of a pixel's light from which on a thing leaves a trace there. */
const traceShare = 0.03;

interface Seen {
  readonly cluttered: ColourGrid;
  readonly truth: ColourGrid;
  /** 1 where each thing leaves a trace in the photograph. */
  readonly objects: readonly Grid[];
}

/** Puts the scene out of focus where it is, the same way for both pictures and what things cover of them. The light of these
 *  is also softened here, as that of the photograph will be. */
function throughLens(
  scene: Scene,
  measures: Measures,
  work: string,
  size: Size,
  given: Omit<Seen, 'objects'> & { coverages: readonly Grid[]; changed: Grid },
): Seen {
  const { focus } = scene.lens;
  const { w, h } = given.changed;
  const traces = (coverages: readonly Grid[]) =>
    coverages
      .map((coverage) => blur(coverage, softnessPx(w)))
      .map(({ data }) => makeGrid(w, h, (_x, _y, i) => (data[i] > traceShare ? 1 : 0)));
  if (!focus) return { ...given, objects: traces(given.coverages) };
  const depth = (cluttered: boolean) =>
    depthOf(render(scene, measures, { is: 'depth', cluttered }, work, size));
  const [near, behind] = [depth(true), depth(false)];
  const truthDepth = makeGrid(w, h, (_x, _y, i) => (given.changed.data[i] > 0 ? behind : near).data[i]);
  const farPx = (focus.farPx * w) / 2400;
  const blurred = defocus([...given.cluttered, ...given.coverages], near, focus.distance, farPx);
  return {
    cluttered: coloursOf(blurred),
    truth: coloursOf(defocus(given.truth, truthDepth, focus.distance, farPx)),
    objects: traces(blurred.slice(3)),
  };
}

const coloursOf = (planes: readonly Grid[]): ColourGrid => [planes[0], planes[1], planes[2]];

const eachPlane = (w: number, h: number, at: (c: number, i: number) => number): ColourGrid => [
  makeGrid(w, h, (_x, _y, i) => at(0, i)),
  makeGrid(w, h, (_x, _y, i) => at(1, i)),
  makeGrid(w, h, (_x, _y, i) => at(2, i)),
];

const within = (r: Region, x: number, y: number): boolean => x >= r.x0 && x < r.x1 && y >= r.y0 && y < r.y1;

/** A box round everything that taking the things away changes, found on renders of a quarter the size. */
function regionOf(scene: Scene, measures: Measures, work: string, coverages: readonly Grid[]): Region {
  const { w, h } = coverages[0];
  const small = Math.round(w / 4);
  const quick = (cluttered: boolean) =>
    render(scene, measures, { is: 'picture', cluttered }, work, { width: small, rendered: small });
  let [x0, y0, x1, y1] = [w, h, 0, 0];
  const take = (g: Grid, by: number) => {
    for (let i = 0; i < g.data.length; i++) {
      if (g.data[i] <= traceShare) continue;
      const [x, y] = [(i % g.w) * by, Math.floor(i / g.w) * by];
      x0 = Math.min(x0, x);
      y0 = Math.min(y0, y);
      x1 = Math.max(x1, x + by);
      y1 = Math.max(y1, y + by);
    }
  };
  take(differenceMask(quick(true), quick(false)), 4);
  for (const coverage of coverages) take(coverage, 1);
  const room = 16;
  return {
    x0: Math.max(1, x0 - room),
    y0: Math.max(1, y0 - room),
    x1: Math.min(w, x1 + room),
    y1: Math.min(h, y1 + room),
  };
}

/** 1 where two renders differ visibly, closed and a little grown. Found on noise-free light, encoded as seen. */
function differenceMask(a: ColourGrid, b: ColourGrid): Grid {
  const { w, h } = a[0];
  const raw = makeGrid(w, h, (_x, _y, i) => {
    let most = 0;
    for (let c = 0; c < 3; c++)
      most = Math.max(most, Math.abs(toEncoded(2 * a[c].data[i]) - toEncoded(2 * b[c].data[i])));
    return most > 2.5 / 255 ? 1 : 0;
  });
  const soft = blur(raw, w / 600);
  return makeGrid(w, h, (_x, _y, i) =>
    soft.data[i] > 0.25 || (raw.data[i] > 0 && soft.data[i] > 0.12) ? 1 : 0,
  );
}
