import {
  type Area,
  bakeArea,
  invertArea,
  type Mask,
  type MaskShape,
  rasteriseArea,
  type Shape,
  trimMask,
} from '../../core/area';
import { InputError } from '../../core/errors';
import { decodeMask, encodeMask } from '../../core/formats';
import { addArea, findMend, type Job, type MethodId, mostNamedAreas } from '../../core/job';
import { boundsOf, type Rect } from '../../core/raster';
import { addShape, areaOf, newId } from './new-mend';
import { paintsLive } from './painting';
import type { Session } from './session';
import { comesBack, type FillKeepsTo, type SessionState } from './state';

const nothingMarked: Partial<SessionState> = {
  mark: null,
  drawing: null,
  reshaping: null,
  scribbles: { inside: [], outside: [] },
  spanClicks: [],
  islands: null,
};

/** What is marked and not yet mended: added to, taken from, given to a mend as its area. */
export class Marking {
  /** What was marked, and laid down for that, for each mend that was made of it; of islands, the first. */
  private readonly givenFor = new Map<string, { readonly mark: Area; readonly fillKeepsTo: FillKeepsTo }>();

  constructor(private readonly session: Session) {}

  clear(): void {
    this.session.finding.clear();
    this.session.set(nothingMarked);
  }

  /** What is marked makes room for something else that is to be drawn, and comes back when that is done. A mend's area that was being
   *  changed is kept as it is now.
   *  @returns the state in which nothing is marked */
  makeRoom(): Partial<SessionState> {
    const { session } = this;
    const { mark, reshaping } = session.state;
    if (reshaping) {
      if (mark === session.mendOf(reshaping)?.area) this.clear();
      else this.keepShape();
    }
    session.finding.clear();
    const { mark: aside, markAside } = session.state;
    if (aside) session.notify(comesBack, 'plain');
    return { ...nothingMarked, markAside: aside ?? markAside };
  }

  /** What was marked has become a mend: whatever was marked since stays, is still found, or is still being drawn. */
  mended(given: Area, mendId: string): void {
    const { session } = this;
    const { mark, fillKeepsTo } = session.state;
    this.givenFor.set(mendId, { mark: given, fillKeepsTo });
    const rest = mark && areaOf(mark, (s) => !given.shapes.includes(s));
    const { scribbles, spanClicks } = session.state;
    const by = session.finding.begunAfter(given);
    if (!by) session.finding.clear();
    session.set({
      mark: rest,
      reshaping: null,
      islands: null,
      scribbles: by === 'grow' ? scribbles : { inside: [], outside: [] },
      spanClicks: by === 'span' ? spanClicks : [],
    });
  }

  /** Whoever takes a mend back is about to try another one: what was marked for it is marked again, until it comes back. With a
   *  method ready, the next gesture is a mend of its own.
   *  @param isBack  by undo: what is deleted by redo was not taken back */
  travelled(before: Job, after: Job, isBack: boolean): void {
    const { session } = this;
    for (const [mendId, given] of this.givenFor) {
      const [was, is] = [before, after].map((job) => findMend(job, mendId) !== null);
      const { mark, method, reshaping, laying } = session.state;
      const isFree = !mark || [...this.givenFor.values()].some((other) => other.mark === mark);
      if (is && !was && mark === given.mark) this.clear();
      else if (was && !is && isBack && isFree && !method && !reshaping && !laying) session.set(given);
    }
  }

  /** Takes a mend's area up as what is marked, so that it can be added to and taken away from. */
  reshape(mendId: string): void {
    const mend = this.session.mendOf(mendId);
    if (!mend || !this.session.mayWrite()) return;
    const { markTool } = this.session.state;
    this.session.set({
      ...this.makeRoom(),
      mark: mend.area,
      reshaping: mendId,
      chosen: mendId,
      method: null,
      markTool: markTool === 'choose' ? 'paint' : markTool,
    });
  }

  /** Gives the mend being reshaped what is marked now as its area. */
  keepShape(): void {
    const { mark, reshaping } = this.session.state;
    if (!mark || !reshaping) return;
    this.clear();
    this.session.mending.change(reshaping, 'change area', { area: mark });
  }

  /** Adds to what is marked; with a method ready, mends it at once unless more is to be added. */
  add(shape: Shape, more: boolean): void {
    const { mark, next, method, laying } = this.session.state;
    if (laying) {
      this.session.set({ drawing: null });
      this.session.steering.addDrawn(shape);
      return;
    }
    if (shape.op !== 'add' && !mark) {
      this.session.notify('Nothing is marked yet, so there is nothing to take away from.');
      return;
    }
    const area = addShape(mark, shape, next);
    this.session.set({ mark: area, drawing: null });
    if (method === 'patch') this.tellPatch();
    else if (method && !more && shape.op === 'add')
      this.session.begin(this.session.mending.make(method, area));
  }

  tellPatch(): void {
    const { next } = this.session.state;
    this.session.notify(
      next.patchFrom === 'thing'
        ? 'Drag what is marked to where it should come from.'
        : 'Drag what is marked onto the thing that it should cover.',
      'plain',
      next.patchFrom === 'thing'
        ? { label: 'Use the best source', run: () => this.mendNow('patch') }
        : undefined,
    );
  }

  /** Mends what is marked, without another gesture. */
  mendNow(method: MethodId): void {
    const { mark } = this.session.state;
    if (mark) this.session.begin(this.session.mending.make(method, mark));
  }

  /** Changes how the mark's outline is treated. */
  adjust(changes: Partial<Omit<Area, 'shapes'>>): void {
    const { mark } = this.session.state;
    if (mark) this.session.set({ mark: { ...mark, ...changes } });
  }

  /** Marks everything else instead. */
  invert(): void {
    const { session } = this;
    const { mark, job } = session.state;
    if (!job) return;
    if (!mark) {
      session.notify('Nothing is marked yet that could be inverted.');
      return;
    }
    const photo = boundsOf(job.photo);
    session.set({ mark: invertArea(mark, photo) ?? invertArea(this.baked(mark, photo), photo) });
  }

  /** The area as pixels. */
  private baked(area: Area, photo: Rect): Area {
    const { mask, x, y } = bakeArea(area, photo, (id) => this.session.masks.get(id));
    return { ...plain, shapes: [this.maskShape(mask, x, y)] };
  }

  private maskShape(mask: Mask, x: number, y: number, w = mask.w, h = mask.h): MaskShape {
    return { kind: 'mask', op: 'add', x, y, w, h, maskId: this.session.holdMask(mask) };
  }

  // Kept areas

  /** Keeps what is marked with the job. */
  async keep(): Promise<void> {
    const { session } = this;
    await session.finding.settled();
    const { job, mark: area } = session.state;
    if (!job || !session.mayWrite()) return;
    if (!area) {
      session.notify('Nothing is marked yet that could be kept.');
      return;
    }
    if (job.areas.length >= mostNamedAreas) {
      session.notify(`A job keeps at most ${mostNamedAreas} areas. Delete some first.`, 'warning');
      return;
    }
    const taken = new Set(job.areas.map((a) => a.name));
    let number = job.areas.length + 1;
    while (taken.has(`Area ${number}`)) number++;
    const name = `Area ${number}`;
    if (session.run(addArea({ id: newId(), name, area })))
      session.notify(`Kept as ${name}. It is in the list on the left.`);
  }

  /** Marks a kept area again, together with what is marked. */
  use(areaId: string): void {
    const { session } = this;
    const { job, mark, method } = session.state;
    const named = job?.areas.find((a) => a.id === areaId);
    if (!job || !named || !session.mayWrite()) return;
    this.session.finding.clear();
    const photo = boundsOf(job.photo);
    const area = mark ? this.joined(mark, named.area, photo) : named.area;
    session.set({ mark: area, chosen: null, method: paintsLive(method) ? null : method });
  }

  /** Two areas as one: pixels where they are treated otherwise. */
  private joined(a: Area, b: Area, photo: Rect): Area {
    const rest = ({ shapes, ...more }: Area) => JSON.stringify(more);
    if (rest(a) === rest(b) && b.shapes.every((s) => s.op === 'add'))
      return { ...a, shapes: [...a.shapes, ...b.shapes] };
    return { ...plain, shapes: [...this.baked(a, photo).shapes, ...this.baked(b, photo).shapes] };
  }

  /** A PNG as large as the photo: white where the area is, grey where it is soft. */
  exportMask(areaId: string): Blob {
    const { job } = this.session.state;
    const named = job?.areas.find((a) => a.id === areaId);
    if (!job || !named) throw new InputError('no-area', 'This area is gone.');
    const photo = boundsOf(job.photo);
    const coverage = rasteriseArea(named.area, photo, (id) => this.session.masks.get(id));
    const data = Uint8Array.from(coverage, (v) => Math.round(v * 255));
    const png = encodeMask({ w: photo.w, h: photo.h, data });
    return new Blob([png as Uint8Array<ArrayBuffer>], { type: 'image/png' });
  }

  /** Keeps a PNG mask as an area: its bright parts, as large as the photo or in its proportions. */
  async importMask(file: File): Promise<void> {
    const { session } = this;
    const { job } = session.state;
    if (!job || !session.mayWrite()) return;
    const mask = decodeMask(new Uint8Array(await file.arrayBuffer()));
    const { width, height } = job.photo;
    const across = width / mask.w;
    if (Math.abs(mask.h * across - height) > Math.max(1, across))
      throw new InputError(
        'mask-size',
        `${file.name} is ${mask.w} × ${mask.h} pixels, which does not go with a photo of ${width} × ${height}.`,
      );
    if (!mask.data.some((v) => v > 0))
      throw new InputError('mask-empty', `${file.name} is black all over, so it marks nothing.`);
    const { mask: trimmed, x, y } = trimMask(mask);
    const down = height / mask.h;
    const shape = this.maskShape(trimmed, x * across, y * down, trimmed.w * across, trimmed.h * down);
    const name = file.name.replace(/\.png$/i, '').slice(0, 200) || 'Mask';
    const area = { ...plain, shapes: [shape] };
    if (session.run(addArea({ id: newId(), name, area }))) session.notify(`Kept as ${name}.`);
  }
}

const plain = { marginPx: 0, featherPx: 0 };
