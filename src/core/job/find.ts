import { type Area, boundsOfArea, type MaskLookup, rasteriseArea } from '../area';
import { intersect, isEmpty } from '../raster';
import type { Job, Layer, Mend, Zones } from './types';

export interface MendPlace {
  readonly layer: Layer;
  readonly layerIndex: number;
  readonly mend: Mend;
  readonly mendIndex: number;
}

export function findMend(job: Job, mendId: string): MendPlace | null {
  for (let layerIndex = 0; layerIndex < job.layers.length; layerIndex++) {
    const layer = job.layers[layerIndex];
    const mendIndex = layer.mends.findIndex((m) => m.id === mendId);
    if (mendIndex >= 0) return { layer, layerIndex, mend: layer.mends[mendIndex], mendIndex };
  }
  return null;
}

/** A mend covers a point when its area does so at least this much. */
const leastCovered = 0.1;

/** The visible mend that lies on top at a point of the photo. @returns its id, or null */
export function topmostAt(job: Job, { x, y }: { x: number; y: number }, masks: MaskLookup): string | null {
  const pixel = { x: Math.floor(x), y: Math.floor(y), w: 1, h: 1 };
  for (const layer of job.layers.toReversed())
    for (const mend of layer.mends.toReversed()) {
      if (!layer.visible || !mend.visible || isEmpty(intersect(boundsOfArea(mend.area), pixel))) continue;
      if (rasteriseArea(mend.area, pixel, masks)[0] > leastCovered) return mend.id;
    }
  return null;
}

export const countMends = (job: Job): number => job.layers.reduce((n, layer) => n + layer.mends.length, 0);

export const allMends = (job: Job): Mend[] => job.layers.flatMap((layer) => layer.mends);

/** A hidden layer that holds a mend which the job did not have before; null when every new mend shows. */
export function gainedUnseen(before: Job, after: Job): Layer | null {
  const had = new Set(allMends(before).map((m) => m.id));
  return after.layers.find((layer) => !layer.visible && layer.mends.some((m) => !had.has(m.id))) ?? null;
}

/** A mend as one of its tries computes it, with that try's seed. */
export function asTried(mend: Mend, tryId: string | null): { mend: Mend; seed: number } {
  const own = mend.tries.find((t) => t.id === tryId);
  const settled = own?.params ? { ...mend, params: { ...mend.params, ...own.params } } : mend;
  return { mend: settled, seed: own?.seed ?? 1 };
}

/** A job with every area that may be made of masks changed: those of mends and what is still to go of them, zones, kept areas. */
export function mapAreas(job: Job, change: (area: Area) => Area): Job {
  const mendOf = (mend: Mend): Mend => ({
    ...mend,
    area: change(mend.area),
    pending: mend.pending && change(mend.pending),
  });
  return mapMends(
    mapZones({ ...job, areas: job.areas.map((named) => ({ ...named, area: change(named.area) })) }, change),
    mendOf,
  );
}

/** A job with each zone of its own and of its mends changed; null: there is none any more. */
export function mapZones(job: Job, change: (zone: Area) => Area | null): Job {
  const zonesOf = <Z extends Zones>(zones: Z): Z => ({
    ...zones,
    allow: zones.allow && change(zones.allow),
    avoid: zones.avoid && change(zones.avoid),
  });
  return mapMends({ ...job, zones: zonesOf(job.zones) }, (mend) => ({ ...mend, steer: zonesOf(mend.steer) }));
}

const mapMends = (job: Job, change: (mend: Mend) => Mend): Job => ({
  ...job,
  layers: job.layers.map((layer) => ({ ...layer, mends: layer.mends.map(change) })),
});

/** The masks that a job's areas are made of. */
export function maskIdsOf(job: Job): Set<string> {
  const ids = new Set<string>();
  mapAreas(job, (area) => {
    for (const shape of area.shapes) if (shape.kind === 'mask') ids.add(shape.maskId);
    return area;
  });
  return ids;
}
