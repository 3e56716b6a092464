import type { Area, StrokeShape } from '../../core/area';
import { type Command, changeMend, findMend, type Job, type Mend, removeMend } from '../../core/job';
import { aboutOf, methods } from '../../core/methods';
import { newId, newTry } from './new-mend';

/** A piece of a split stroke is about so many brush sizes long. */
const pieceLength = 4;

/** The areas into which a mend can be split: its shapes one by one, or a single long stroke in pieces. What was taken
 *  away stays taken away from every part. One area: it cannot be split. */
export function partsOf(area: Area): Area[] {
  const added = area.shapes.filter((s) => s.op === 'add');
  const away = area.shapes.filter((s) => s.op === 'subtract');
  const [only] = added;
  const pieces = added.length === 1 && only.kind === 'stroke' ? strokePieces(only) : added;
  return pieces.map((shape) => ({ ...area, shapes: [shape, ...away] }));
}

/** Pieces share their ends, so that no gap opens between them. */
function strokePieces(stroke: StrokeShape): StrokeShape[] {
  const { points, radiusPx } = stroke;
  let total = 0;
  for (let i = 1; i < points.length; i++) total += distance(points[i - 1], points[i]);
  const count = Math.min(40, Math.floor(total / (2 * radiusPx * pieceLength)) + 1);
  if (count < 2) return [stroke];
  const pieces: StrokeShape[] = [];
  let piece = [points[0]];
  let gone = 0;
  for (let i = 1; i < points.length; i++) {
    gone += distance(points[i - 1], points[i]);
    piece.push(points[i]);
    if (gone < ((pieces.length + 1) * total) / count && i < points.length - 1) continue;
    pieces.push({ ...stroke, points: piece });
    piece = [points[i]];
  }
  return pieces;
}

const distance = (a: readonly number[], b: readonly number[]): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** Puts the parts of a mend in its place, each a mend of its own that takes from where the whole did. */
export function splitMend(mend: Mend): { command: Command; ids: string[] } | null {
  const areas = partsOf(mend.area);
  if (areas.length < 2) return null;
  const about = mend.source && mend.steer.plane ? { about: aboutOf(mend) } : {};
  const source = mend.source && { ...mend.source, ...about };
  const parts = areas.map((area, i) => ({
    ...mend,
    ...anew(mend, false),
    area,
    source,
    id: newId(),
    name: `${mend.name}, part ${i + 1}`.slice(0, 200),
  }));
  return {
    command: {
      label: 'split mend',
      change: (draft) => {
        const place = findMend(draft as Job, mend.id);
        if (place) draft.layers[place.layerIndex].mends.splice(place.mendIndex, 1, ...(parts as never[]));
      },
    },
    ids: parts.map((p) => p.id),
  };
}

/** A kept result belongs to the area that it was computed for: with another one there is a new try. */
function anew(mend: Mend, keepsOld: boolean): Pick<Mend, 'tries' | 'chosenTry'> {
  if (methods[mend.method].scope !== 'kept') return { tries: mend.tries, chosenTry: mend.chosenTry };
  const added = newTry(keepsOld ? mend : null);
  return { tries: keepsOld ? [...mend.tries, added] : [added], chosenTry: added.id };
}

/** The mend right below one in its layer, when the two can be one: same method, nothing that only one of them has. */
export function joinable(job: Job, mendId: string): Mend | null {
  const place = findMend(job, mendId);
  if (!place || place.mendIndex === 0) return null;
  const below = place.layer.mends[place.mendIndex - 1];
  const { area } = place.mend;
  const alike =
    below.method === place.mend.method &&
    below.blend === place.mend.blend &&
    below.area.marginPx === area.marginPx &&
    below.area.featherPx === area.featherPx;
  return alike ? below : null;
}

/** One mend over both areas, which takes from where the upper one does. */
export function joinMends(upper: Mend, below: Mend): Command {
  const changes = changeMend(upper.id, 'join mends', {
    area: { ...upper.area, shapes: [...below.area.shapes, ...upper.area.shapes] },
    ...(upper.source && { source: { ...upper.source, about: aboutOf(upper) } }),
    stops: [...below.stops, ...upper.stops],
    ...anew(upper, true),
  });
  return {
    label: 'join mends',
    change: (draft) => {
      changes.change(draft);
      removeMend(below.id).change(draft);
    },
  };
}
