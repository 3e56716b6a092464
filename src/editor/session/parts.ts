import type { Area, Shape, StrokeShape } from '../../core/area';
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

/** The mends, from the bottom up, when they can be one: two or more of one layer with the same method and nothing that
 *  only some of them have. */
export function joinable(job: Job, mendIds: readonly string[]): readonly Mend[] | null {
  const layer = job.layers.find((l) => l.mends.some((m) => mendIds.includes(m.id)));
  const mends = layer?.mends.filter((m) => mendIds.includes(m.id)) ?? [];
  if (mends.length < 2 || mends.length < new Set(mendIds).size) return null;
  const [first] = mends;
  const alike = mends.every(
    (m) =>
      m.method === first.method &&
      m.blend === first.blend &&
      m.area.marginPx === first.area.marginPx &&
      m.area.featherPx === first.area.featherPx,
  );
  return alike && unitedShapes(mends) ? mends : null;
}

/** Shapes that mark what the mends' areas mark together: null when what is taken away from one would be taken from
 *  the others too. */
function unitedShapes(mends: readonly Mend[]): readonly Shape[] | null {
  const cut = mends.filter(({ area }) => area.shapes.some((s) => s.op !== 'add'));
  const all = mends.flatMap((m) => m.area.shapes);
  if (cut.length === 0) return all;
  if (cut.length === 1)
    return [...cut[0].area.shapes, ...mends.flatMap((m) => (m === cut[0] ? [] : m.area.shapes))];
  // Parts of one area that was split: each is one piece and then all that was taken away.
  const awayOf = ({ area }: Mend) => area.shapes.slice(area.shapes.findIndex((s) => s.op !== 'add'));
  const away = awayOf(cut[0]);
  const same =
    cut.length === mends.length &&
    away.every((s) => s.op !== 'add') &&
    cut.every((m) => JSON.stringify(awayOf(m)) === JSON.stringify(away));
  return same ? [...all.filter((s) => s.op === 'add'), ...away] : null;
}

/** What is still to go for any of them; what they mend themselves counts as theirs. */
function unitedPending(mends: readonly Mend[]): Area | null {
  const shapes = mends.flatMap((m) => m.pending?.shapes ?? []);
  return shapes.length > 0 ? { shapes, marginPx: 0, featherPx: 0 } : null;
}

/** The mend right below one in its layer. */
export function mendBelow(job: Job, mendId: string): Mend | null {
  const place = findMend(job, mendId);
  return place && place.mendIndex > 0 ? place.layer.mends[place.mendIndex - 1] : null;
}

/** One mend over all areas, in the topmost one's place and taking from where that does. */
export function joinMends(mends: readonly Mend[]): Command {
  const upper = mends[mends.length - 1];
  const changes = changeMend(upper.id, 'join mends', {
    area: { ...upper.area, shapes: unitedShapes(mends) ?? [] },
    ...(upper.source && { source: { ...upper.source, about: aboutOf(upper) } }),
    pending: unitedPending(mends),
    stops: mends.flatMap((m) => m.stops),
    ...anew(upper, true),
  });
  return {
    label: 'join mends',
    change: (draft) => {
      changes.change(draft);
      for (const { id } of mends) if (id !== upper.id) removeMend(id).change(draft);
    },
  };
}
