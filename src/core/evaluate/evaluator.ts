import { compositeLayer, compositePatch } from '../blend';
import { messageOf } from '../errors';
import { type Job, type Mend, noZones } from '../job/types';
import type { MethodContext, Patch, UnderBrush } from '../methods';
import {
  boundsOf,
  contains,
  copyFloat,
  emptyRect,
  type FloatImage,
  grow,
  inBlocks,
  intersect,
  isEmpty,
  LentImages,
  makeFloatImage,
  type Raster,
  type Rect,
  tilesIn,
  unite,
} from '../raster';
import { ContentKeys, type PixelSources, shownTry } from './content-keys';
import { Coverages, joinCoverage, leftOver } from './coverages';
import { LruCache } from './lru-cache';
import { type DraftCoverage, Plan, partOf, rectOfTile } from './plan';
import { type Pictures, Reading } from './reading';
import { planSteps, type Step } from './steps';
import { triedPixels } from './tried-pixels';
import { ZonesAt } from './zones';

/** RGBA float32 and coverage float32. */
const bytesPerPatchPixel = 20;
const mostPatchBytes = 1 << 30;

/** Computes the picture of a job: photo, then every visible mend, layer by layer.
 *
 *  Work is done in tiles and only where mends lie. Every intermediate picture of a tile has a content key made of the
 *  keys of all that went into it; whatever has the key already need not be computed again, so a change costs what it
 *  touches. Results depend on the job alone: not on the order of questions, nor on what the cache still holds.
 */
export class Evaluator {
  readonly bounds: Rect;
  private plan: Plan;
  private readonly keys: ContentKeys;
  private zones: ZonesAt;
  private draft: DraftCoverage | null = null;
  private underBrush: UnderBrush | null = null;
  private readonly failed = new Map<string, string>();
  /** While a stroke is painted. */
  private readonly passing = new LentImages();
  /** While something is dragged: its patches in the one frame, and the memory that all of a frame's lie in. */
  private readonly dragged = new Map<string, Patch>();
  private draggedPixels = new LentImages();
  private readonly tiles: LruCache<FloatImage>;
  private readonly patches: LruCache<Patch>;
  private readonly coverages: Coverages;
  private readonly reading: Reading;

  constructor(
    private readonly photo: Raster,
    private readonly photoKey: string,
    private readonly sources: PixelSources,
    private readonly budgetBytes = 128 << 20,
  ) {
    this.bounds = boundsOf(photo);
    this.keys = new ContentKeys(sources);
    this.zones = new ZonesAt(noZones, sources.masks);
    this.plan = new Plan(this.bounds, photoKey, this.keys, { steps: [], zones: noZones });
    this.tiles = new LruCache(budgetBytes * 0.6);
    this.patches = new LruCache(budgetBytes * 0.4);
    this.coverages = new Coverages(this.bounds, sources.masks, budgetBytes * 0.15);
    const pictures: Pictures = {
      plan: () => this.plan,
      tileAt: (tile, position) => this.tileAt(tile, position),
      through: (steps, tile, image) => this.through(steps, tile, image),
    };
    this.reading = new Reading(photo, this.bounds, pictures, this.tiles);
  }

  /** Takes a new version of the job. Cheap: pixels are computed when they are asked for. */
  setJob(
    job: Job,
    draft: DraftCoverage | null = null,
    /** Mends that are being dragged: they may be computed less exactly. */
    previewed: ReadonlySet<string> = new Set(),
  ): void {
    this.draft = draft;
    this.zones = new ZonesAt(job.zones, this.sources.masks);
    const steps = planSteps(job, this.bounds, draft?.mendId);
    this.plan = new Plan(this.bounds, this.photoKey, this.keys, {
      steps,
      zones: job.zones,
      draft,
      previewed,
      before: this.plan,
    });
    this.failed.clear();
    this.dragged.clear();
    if (previewed.size > 0) this.draggedPixels.giveBack();
    else this.draggedPixels = new LentImages();
    // A patch that is let go may pull the whole stack below it through the computation again, and its sources' stacks
    // with it. So there is room for every patch of the job, up to a limit that only enormous jobs reach.
    let patchBytes = 0;
    for (const step of steps)
      if (step.kind === 'mend') patchBytes += step.affected.w * step.affected.h * bytesPerPatchPixel;
    this.patches.allow(Math.max(this.budgetBytes * 0.4, Math.min(mostPatchBytes, 1.5 * patchBytes)));
    this.underBrush = null;
    const step = draft && this.plan.stepOf(draft.mendId);
    if (!step) return;
    this.underBrush = step.method.underBrush?.(step.mend) ?? null;
    this.extendUnderBrush(step.mend, [step.affected]);
  }

  /** @returns what is to be shown anew; null when the mend under way is evaluated like any other */
  private extendUnderBrush(mend: Mend, changed: readonly Rect[]): readonly Rect[] | null {
    const { underBrush } = this;
    if (!underBrush) return null;
    try {
      const context = this.contextIn(this.passing, mend);
      const rose = changed.filter((rect) => !isEmpty(rect));
      for (const part of inBlocks(rose.map((rect) => grow(rect, 1)))) {
        this.passing.giveBack();
        underBrush.take(mend, part, context);
      }
      return rose.length > 0 ? underBrush.spread(rose) : [];
    } catch (error) {
      this.failed.set(mend.id, messageOf(error));
      this.underBrush = null;
      return null;
    }
  }

  /** Takes a new version of the mend under way. Only what lies above it gets new keys.
   *  @param changed  where its coverage rose
   *  @returns what is to be shown anew, {@link inBlocks} */
  updateDraft(mend: Mend, changed: readonly Rect[]): readonly Rect[] {
    const step = this.plan.replace(mend);
    if (!step) return [];
    const anew = this.extendUnderBrush(mend, changed);
    if (anew) return inBlocks(anew);
    return step.method.scope === 'tile' ? changed : inBlocks([step.affected]);
  }

  /** Brings all of the stroke under way up to date. @returns what is to be shown anew, {@link inBlocks} */
  settleDraft(): readonly Rect[] {
    return inBlocks(this.underBrush?.settle() ?? []);
  }

  /** The finished picture within a rectangle, premultiplied float32. */
  picture(rect: Rect): FloatImage {
    return this.reading.at(this.plan.steps.length, rect);
  }

  /** The finished picture of one tile, not to be changed; null where it is the photo's own. */
  pictureTile(tile: number): FloatImage | null {
    return this.tileAt(tile, this.plan.steps.length);
  }

  /** While something is dragged: the part of a tile that it, or what lies above it, may change; null where neither does. What
   *  lies beyond that part is as it is {@link belowDragged}. */
  draggedPart(tile: number): Rect | null {
    const { plan, bounds } = this;
    const first = plan.firstDragged;
    const above = plan.stepsOf(tile).filter((index) => index >= first);
    const part = intersect(
      above.reduce((all, index) => unite(all, plan.steps[index].affected), emptyRect),
      rectOfTile(tile, bounds),
    );
    return isEmpty(part) ? null : part;
  }

  /** A tile below all that is dragged, not to be changed, and a key that is equal for equal pixels. */
  belowDragged(tile: number): { key: string; picture: () => FloatImage } {
    const { firstDragged } = this.plan;
    return {
      key: this.plan.keyAt(tile, firstDragged),
      picture: () => this.tileAt(tile, firstDragged) ?? this.reading.ofPhoto(rectOfTile(tile, this.bounds)),
    };
  }

  /** The finished picture of a part of a tile while something is dragged, of which nothing above that is kept. Good until the
   *  next one is asked for. */
  pictureOfDragged(tile: number, part: Rect): FloatImage {
    return this.partAbove(tile, part, this.plan.firstDragged);
  }

  /** Equal for equal pixels of a tile of the finished picture. */
  pictureKey(tile: number): string {
    return this.plan.keyAt(tile, this.plan.steps.length);
  }

  /** True when no mend touches the rectangle, so that the photo's own pixels are the picture. */
  untouched(rect: Rect): boolean {
    return tilesIn(rect, this.bounds).every((key) => this.plan.stepsOf(key).length === 0);
  }

  /** Equal as long as a mend reads the same pixels with the same area and parameters. */
  inputKey(mend: Mend): string {
    return this.plan.inputKey(mend);
  }

  /** What a method may use, for a mend in its place. */
  contextOf(mend: Mend): MethodContext {
    return {
      bounds: this.bounds,
      isPreview: this.plan.isPreview(mend),
      read: (rect) => this.reading.input(mend, rect),
      readAlong: (rect, pixels) => this.reading.inputAlong(mend, rect, pixels),
      mayDraw: (rect) => this.zones.mayDraw(mend, rect),
      allowedWithin: this.plan.allowedWithin(mend),
      pending: (rect) => this.zones.pending(mend, rect),
      avoided: (rect) => this.zones.avoided(mend, rect),
      coverage: (rect) => this.coverageOf(mend, rect, (count) => new Float32Array(count)),
      chosen: (rect) => triedPixels(shownTry(mend, this.sources.tries), this.photo.depth, rect),
    };
  }

  /** For what is soon done with: what is read is good until those images are given back. */
  private contextIn(images: LentImages, mend: Mend): MethodContext {
    return {
      ...this.contextOf(mend),
      read: (rect) => this.reading.input(mend, rect, (wanted) => images.lend(wanted)),
      coverage: (rect) => this.coverageOf(mend, rect, (count) => images.lendPlane(count)),
    };
  }

  private coverageOf(mend: Mend, rect: Rect, make: (count: number) => Float32Array): Float32Array {
    if (this.draft?.mendId === mend.id) return this.draft.coverage(rect, make(rect.w * rect.h));
    return this.coverages.of(mend.area, this.plan.areaKey(mend), rect);
  }

  /** Lets go of everything that can be computed again, to make room for something large. */
  letGo(): void {
    this.tiles.clear();
    this.patches.clear();
    this.coverages.clear();
  }

  /** Mends whose patch could not be computed, with the reason. They leave the picture as it is. */
  failures(): ReadonlyMap<string, string> {
    return this.failed;
  }

  private tileAt(tile: number, position: number): FloatImage | null {
    return this.tileAtDepth(tile, this.plan.depthAt(tile, position));
  }

  private through(steps: readonly number[], tile: number, image: FloatImage): void {
    let below: FloatImage | null = null;
    let opened = -1;
    for (const index of steps) {
      const step = this.plan.steps[index];
      if (step.opened !== opened) {
        opened = step.opened;
        below = { rect: image.rect, data: image.data.slice() };
      }
      if (step.kind === 'close') this.closeLayer(step, index, tile, image, below!);
      else this.apply(index, tile, image);
    }
  }

  private tileAtDepth(tile: number, depth: number): FloatImage | null {
    if (depth === 0) return null;
    const key = this.plan.keyAtDepth(tile, depth);
    const cached = this.tiles.get(key);
    if (cached) return cached;
    let from = depth - 1;
    while (from > 0 && !this.tiles.has(this.plan.keyAtDepth(tile, from))) from--;
    const image = makeFloatImage(rectOfTile(tile, this.bounds));
    if (from > 0) image.data.set(this.tiles.get(this.plan.keyAtDepth(tile, from))!.data);
    else this.reading.photoInto(tile, image);
    const list = this.plan.stepsOf(tile);
    for (let d = from; d < depth; d++) this.apply(list[d], tile, image);
    this.tiles.set(key, image, image.data.byteLength);
    return image;
  }

  /** The finished picture of a part of one tile, without keeping it: for strokes, whose pixels change at once again. Good until
   *  the next one is asked for. */
  partOfTile(tile: number, part: Rect, keptBelow: string): FloatImage {
    return this.partAbove(tile, part, this.plan.positionOf(keptBelow));
  }

  private partAbove(tile: number, part: Rect, position: number): FloatImage {
    this.passing.giveBack();
    const image = this.passing.lend(part);
    const above = this.plan.stepsOf(tile).filter((index) => index >= position);
    let below = this.tileAt(tile, position) ?? this.reading.photoTile(tile);
    const first = above.length > 0 ? this.plan.steps[above[0]] : null;
    // What lies on all of it is laid on what is below without that being copied first.
    if (!below || first?.kind !== 'mend' || !contains(first.affected, part)) {
      if (below) copyFloat(below, image);
      else this.reading.photoInto(tile, image);
      below = image;
    }
    for (const index of above) {
      this.apply(index, tile, image, true, below);
      below = image;
    }
    return image;
  }

  /** @param passing  whether the image is one, and all that is read for it
   *  @param below    what a step is laid on, if not on the image itself: of a mend that affects all of it */
  private apply(index: number, tile: number, image: FloatImage, passing = false, below = image): void {
    const step = this.plan.steps[index];
    if (step.kind === 'close')
      return this.closeLayer(step, index, tile, image, this.reading.at(step.opened, image.rect));
    const at = intersect(step.affected, image.rect);
    if (isEmpty(at)) return;
    const patch = this.patchFor(step, index, tile, at, passing);
    if (!patch) {
      if (below !== image) copyFloat(below, image);
      return;
    }
    compositePatch(
      below,
      patch.image,
      leftOver(step.mend, patch, at, this.sources.masks),
      patch.image.rect,
      at,
      step.mend.opacity,
      step.mend.blend,
      image,
    );
  }

  private patchFor(
    step: Extract<Step, { kind: 'mend' }>,
    index: number,
    tile: number,
    at: Rect,
    passing = false,
  ): Patch | null {
    const { mend, method, partSide } = step;
    // What cannot be computed in one piece cannot be for the next tile either.
    if (method.scope === 'whole' && !partSide && this.failed.has(mend.id)) return null;
    try {
      if (method.scope === 'kept') return method.evaluate(mend, at, this.contextOf(mend));
      const isDraft = this.draft?.mendId === mend.id;
      if (isDraft && (this.underBrush || partSide)) {
        const context = passing ? this.contextIn(this.passing, mend) : this.contextOf(mend);
        return this.underBrush?.patch(mend, at, context) ?? method.evaluate(mend, at, context);
      }
      // Parts of one patch may read the same tiles: where they lie tells them apart.
      const output = partOf(step, tile);
      const key = `${this.plan.patchKey(index, tile)}@${output.x},${output.y}`;
      const cached = this.patches.get(key) ?? this.dragged.get(key);
      if (cached) return cached;
      // The next frame has another one: kept for good it would take the place of what is needed again.
      if (!isDraft && this.plan.isPreview(mend)) {
        const patch = method.evaluate(mend, output, this.contextIn(this.draggedPixels, mend));
        this.dragged.set(key, patch);
        return patch;
      }
      const patch = method.evaluate(mend, output, this.contextOf(mend));
      this.patches.set(key, patch, patch.image.data.byteLength + patch.coverage.byteLength);
      return patch;
    } catch (error) {
      this.failed.set(mend.id, messageOf(error));
      return null;
    }
  }

  private closeLayer(
    step: Extract<Step, { kind: 'close' }>,
    index: number,
    tile: number,
    image: FloatImage,
    below: FloatImage,
  ): void {
    let alpha: Float32Array | null = null;
    if (step.layer.blend !== 'normal') {
      alpha = new Float32Array(image.rect.w * image.rect.h);
      for (const i of this.plan.stepsOf(tile)) {
        const inner = this.plan.steps[i];
        if (i < step.opened || i >= index || inner.kind !== 'mend') continue;
        const at = intersect(inner.affected, image.rect);
        const patch = isEmpty(at) ? null : this.patchFor(inner, i, tile, at);
        if (patch)
          joinCoverage(
            alpha,
            image.rect,
            { image: patch.image, coverage: leftOver(inner.mend, patch, at, this.sources.masks) },
            at,
            inner.mend.opacity,
          );
      }
    }
    compositeLayer(below, image, alpha, step.layer.opacity, step.layer.blend);
  }
}
