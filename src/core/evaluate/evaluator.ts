import { rasteriseArea } from '../area';
import { compositeLayer, compositePatch } from '../blend';
import { messageOf } from '../errors';
import { type Job, type Mend, noZones, type Zones } from '../job/types';
import { type MethodContext, type MethodDefinition, methods, type Patch, type UnderBrush } from '../methods';
import { contentKey } from '../random';
import {
  boundsOf,
  copyFloat,
  emptyRect,
  type FloatImage,
  intersect,
  isEmpty,
  makeFloatImage,
  type Raster,
  type Rect,
  readRaster,
  sameRect,
  tileOfKey,
  tileRect,
  tilesIn,
} from '../raster';
import { ContentKeys, type PixelSources } from './content-keys';
import { LruCache } from './lru-cache';
import { planSteps, type Step } from './steps';

/** A stroke being painted: its coverage grows in place, so it is supplied instead of being rasterised again. */
export interface DraftCoverage {
  readonly mendId: string;
  /** Changes whenever the coverage does. */
  readonly revision: number;
  coverage(rect: Rect): Float32Array;
}

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
  private steps: readonly Step[] = [];
  private stepsByTile = new Map<number, number[]>();
  private positions = new Map<string, number>();
  private tileKeys = new Map<number, string[]>();
  private patchKeys = new Map<number, string>();
  private readonly keys: ContentKeys;
  private zones: Zones = noZones;
  private draft: DraftCoverage | null = null;
  private underBrush: UnderBrush | null = null;
  private previewed: ReadonlySet<string> = new Set();
  private readonly failed = new Map<string, string>();
  private readonly tiles: LruCache<FloatImage>;
  private readonly patches: LruCache<Patch>;
  private readonly coverages: LruCache<Float32Array>;

  constructor(
    private readonly photo: Raster,
    private readonly photoKey: string,
    private readonly sources: PixelSources,
    private readonly budgetBytes = 128 << 20,
  ) {
    this.bounds = boundsOf(photo);
    this.keys = new ContentKeys(sources);
    this.tiles = new LruCache(budgetBytes * 0.6);
    this.patches = new LruCache(budgetBytes * 0.4);
    this.coverages = new LruCache(budgetBytes * 0.15);
  }

  /** Takes a new version of the job. Cheap: pixels are computed when they are asked for. */
  setJob(
    job: Job,
    draft: DraftCoverage | null = null,
    /** Mends that are being dragged: they may be computed less exactly. */
    previewed: ReadonlySet<string> = new Set(),
  ): void {
    this.draft = draft;
    this.previewed = previewed;
    this.zones = job.zones;
    this.steps = planSteps(job, this.bounds, draft?.mendId);
    this.positions.clear();
    this.stepsByTile = new Map();
    this.tileKeys.clear();
    this.patchKeys.clear();
    this.failed.clear();
    // A patch that is let go may pull the whole stack below it through the computation again, and its sources' stacks
    // with it. So there is room for every patch of the job, up to a limit that only enormous jobs reach.
    let patchBytes = 0;
    for (const step of this.steps)
      if (step.kind === 'mend') patchBytes += step.affected.w * step.affected.h * bytesPerPatchPixel;
    this.patches.allow(Math.max(this.budgetBytes * 0.4, Math.min(mostPatchBytes, 1.5 * patchBytes)));
    this.steps.forEach((step, i) => {
      if (step.kind === 'mend') this.positions.set(step.mend.id, i);
      for (const key of tilesIn(step.affected, this.bounds)) {
        const list = this.stepsByTile.get(key);
        if (list) list.push(i);
        else this.stepsByTile.set(key, [i]);
      }
    });
    this.underBrush = null;
    const step = draft && this.steps[this.positions.get(draft.mendId) ?? -1];
    if (step?.kind !== 'mend') return;
    this.underBrush = step.method.underBrush?.(step.mend) ?? null;
    this.extendUnderBrush(step.mend, step.affected);
  }

  /** @returns what is to be shown anew; null when the mend under way is evaluated like any other */
  private extendUnderBrush(mend: Mend, changed: Rect): Rect | null {
    try {
      return this.underBrush?.extend(mend, changed, this.contextOf(mend)) ?? null;
    } catch (error) {
      this.failed.set(mend.id, messageOf(error));
      this.underBrush = null;
      return null;
    }
  }

  /** Takes a new version of the mend under way. Only what lies above it gets new keys.
   *  @param changed  where its coverage rose
   *  @returns what is to be shown anew */
  updateDraft(mend: Mend, changed: Rect): Rect {
    const position = this.positions.get(mend.id);
    const step = position === undefined ? null : this.steps[position];
    if (position === undefined || step?.kind !== 'mend') return emptyRect;
    const affected = step.method.affectedOutput(mend, this.bounds);
    const steps = this.steps.slice();
    steps[position] = { ...step, mend, affected };
    this.steps = steps;
    for (const key of tilesIn(affected, this.bounds)) {
      const list = this.stepsByTile.get(key);
      if (!list) this.stepsByTile.set(key, [position]);
      else if (!list.includes(position)) {
        list.push(position);
        list.sort((a, b) => a - b);
      }
    }
    for (const [tile, keys] of this.tileKeys)
      keys.length = Math.min(keys.length, this.depthAt(tile, position) + 1);
    for (const index of this.patchKeys.keys()) if (index >= position) this.patchKeys.delete(index);
    const anew = this.extendUnderBrush(mend, changed);
    return anew ?? (step.method.scope === 'tile' ? changed : affected);
  }

  /** Brings all of the stroke under way up to date. @returns what is to be shown anew */
  settleDraft(): Rect {
    const step = this.draft && this.steps[this.positions.get(this.draft.mendId) ?? -1];
    if (!this.underBrush || step?.kind !== 'mend') return emptyRect;
    this.underBrush.settle();
    return step.affected;
  }

  /** The finished picture within a rectangle, premultiplied float32. */
  picture(rect: Rect): FloatImage {
    return this.readAt(rect, this.steps.length);
  }

  /** The finished picture of one tile, not to be changed; null where it is the photo's own. */
  pictureTile(tile: number): FloatImage | null {
    return this.tileAt(tile, this.steps.length);
  }

  /** What a mend sees below it, or the photo if that is what it reads. Also for a mend that the job does not hold
   *  (yet): then on top of everything. */
  input(mend: Mend, rect: Rect): FloatImage {
    if (mend.reads === 'photo') return this.readPhoto(rect);
    const position = this.positions.get(mend.id) ?? this.steps.length;
    return mend.reads === 'below' ? this.readAt(rect, position) : this.readSome(mend, rect, position);
  }

  /** Equal for equal pixels of a tile of the finished picture. */
  pictureKey(tile: number): string {
    return this.keyAt(tile, this.steps.length);
  }

  /** True when no mend touches the rectangle, so that the photo's own pixels are the picture. */
  untouched(rect: Rect): boolean {
    return tilesIn(rect, this.bounds).every((key) => !this.stepsByTile.has(key));
  }

  /** Equal as long as a mend reads the same pixels with the same area and parameters. */
  inputKey(mend: Mend): string {
    const method = methods[mend.method];
    const position = this.positions.get(mend.id) ?? this.steps.length;
    return this.makeInputKey(mend, method, method.affectedOutput(mend, this.bounds), position);
  }

  /** What a method may use, for a mend in its place. */
  contextOf(mend: Mend): MethodContext {
    return {
      bounds: this.bounds,
      isPreview: this.isPreview(mend),
      read: (rect) => this.input(mend, rect),
      mayDraw: (rect) => this.mayDraw(mend, rect),
      hasAllowZone: this.allowZone(mend) !== null,
      coverage: (rect) => this.coverage(mend, rect),
      chosen: (rect) => this.chosen(mend, rect),
    };
  }

  private isPreview(mend: Mend): boolean {
    return this.draft?.mendId === mend.id || this.previewed.has(mend.id);
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

  private readPhoto(rect: Rect): FloatImage {
    const image = makeFloatImage(rect);
    readRaster(this.photo, rect, image);
    return image;
  }

  private readAt(rect: Rect, position: number): FloatImage {
    const out = makeFloatImage(rect);
    for (const key of tilesIn(rect, this.bounds)) {
      const { tx, ty } = tileOfKey(key);
      const part = intersect(tileRect(tx, ty, this.bounds), rect);
      const tile = this.tileAt(key, position) ?? this.photoTile(key);
      if (tile) copyFloat(tile, out, part);
      else readRaster(this.photo, part, out);
    }
    return out;
  }

  /** The photo's own pixels of a tile as floats: kept while something moves, which reads the same ones each time. */
  private photoTile(tile: number): FloatImage | null {
    if (!this.draft && this.previewed.size === 0) return null;
    const key = `${this.photoKey}:${tile}`;
    const known = this.tiles.get(key);
    if (known) return known;
    const image = this.readPhoto(this.rectOfTile(tile));
    this.tiles.set(key, image, image.data.byteLength);
    return image;
  }

  /** The steps of a tile below a position that a mend with a choice of layers reads. */
  private stepsRead(mend: Mend, tile: number, position: number): number[] {
    const at = this.steps[Math.min(position, this.steps.length - 1)];
    const wanted = mend.reads === 'layer' ? [at?.layerId] : mend.readLayers;
    return (this.stepsByTile.get(tile) ?? []).filter(
      (i) => i < position && wanted.includes(this.steps[i].layerId),
    );
  }

  /** The photo with the mends of some layers below a position, as if the other layers were hidden. */
  private readSome(mend: Mend, rect: Rect, position: number): FloatImage {
    const out = makeFloatImage(rect);
    for (const tile of tilesIn(rect, this.bounds)) {
      const part = intersect(this.rectOfTile(tile), rect);
      const steps = this.stepsRead(mend, tile, position);
      if (steps.length === 0) {
        readRaster(this.photo, part, out);
        continue;
      }
      const image = this.readPhoto(this.rectOfTile(tile));
      let below: FloatImage | null = null;
      let opened = -1;
      for (const index of steps) {
        const step = this.steps[index];
        if (step.opened !== opened) {
          opened = step.opened;
          below = { rect: image.rect, data: image.data.slice() };
        }
        if (step.kind === 'close') this.closeLayer(step, index, tile, image, below!);
        else this.apply(index, tile, image);
      }
      copyFloat(image, out, part);
    }
    return out;
  }

  private keyOfRead(mend: Mend, tile: number, position: number): string {
    const photo = `${this.photoKey}:${tile}`;
    if (mend.reads === 'photo') return photo;
    if (mend.reads === 'below') return this.keyAt(tile, position);
    const parts = [photo];
    let layerId: string | null = null;
    for (const i of this.stepsRead(mend, tile, position)) {
      const step = this.steps[i];
      if (mend.reads === 'chosen' && step.layerId !== layerId) parts.push('layer');
      layerId = step.layerId;
      parts.push(this.stepKey(i, tile));
    }
    return contentKey(parts.join('|'));
  }

  /** How many of the tile's steps come before a position. */
  private depthAt(tile: number, position: number): number {
    const list = this.stepsByTile.get(tile);
    if (!list) return 0;
    let low = 0;
    let high = list.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (list[mid] < position) low = mid + 1;
      else high = mid;
    }
    return low;
  }

  private keyAt(tile: number, position: number): string {
    return this.keyAtDepth(tile, this.depthAt(tile, position));
  }

  private keyAtDepth(tile: number, depth: number): string {
    let keys = this.tileKeys.get(tile);
    if (!keys) {
      keys = [`${this.photoKey}:${tile}`];
      this.tileKeys.set(tile, keys);
    }
    const list = this.stepsByTile.get(tile);
    while (keys.length <= depth) {
      const index = list![keys.length - 1];
      keys.push(contentKey(`${keys[keys.length - 1]}|${this.stepKey(index, tile)}`));
    }
    return keys[depth];
  }

  private stepKey(index: number, tile: number): string {
    const step = this.steps[index];
    if (step.kind === 'close') return `close:${step.layer.opacity}:${step.layer.blend}`;
    const { mend } = step;
    const rubbed = mend.rubbed ? `:${this.keys.shapes(mend.rubbed)}` : '';
    return `${this.patchKey(index, tile)}:${mend.opacity}:${mend.blend}${rubbed}`;
  }

  private patchKey(index: number, tile: number): string {
    const step = this.steps[index] as Extract<Step, { kind: 'mend' }>;
    const { mend, method } = step;
    if (method.scope === 'tile') {
      const { tx, ty } = tileOfKey(tile);
      return this.makeInputKey(mend, method, intersect(tileRect(tx, ty, this.bounds), step.affected), index);
    }
    let key = this.patchKeys.get(index);
    if (!key) {
      key =
        method.scope === 'kept'
          ? `kept:${this.keys.tried(mend.chosenTry)}:${this.areaKey(mend)}`
          : this.makeInputKey(mend, method, step.affected, index);
      this.patchKeys.set(index, key);
    }
    return key;
  }

  private makeInputKey(mend: Mend, method: MethodDefinition, output: Rect, position: number): string {
    const parts = [this.keys.params(mend), this.areaKey(mend)];
    if (this.isPreview(mend)) parts.push('preview');
    if (method.scope === 'kept') parts.push(this.keys.shapes(mend.steer), this.keys.shapes(this.zones));
    for (const rect of method.requiredInput(mend, output, this.bounds))
      for (const tile of tilesIn(rect, this.bounds)) parts.push(this.keyOfRead(mend, tile, position));
    return contentKey(parts.join('|'));
  }

  private areaKey(mend: Mend): string {
    if (this.draft?.mendId === mend.id) return `draft:${mend.id}:${this.draft.revision}`;
    return this.keys.shapes(mend.area);
  }

  /** A mend's own goes before the job's. */
  private allowZone(mend: Mend): Zones['allow'] {
    return mend.steer.allow ?? this.zones.allow;
  }

  /** Avoid zones of the mend and the job add up. */
  private mayDraw(mend: Mend, rect: Rect): Uint8Array | null {
    const allow = this.allowZone(mend);
    const avoided = [mend.steer.avoid, this.zones.avoid].filter((zone) => zone !== null);
    if (!allow && avoided.length === 0) return null;
    const { masks } = this.sources;
    const out = allow
      ? Uint8Array.from(rasteriseArea(allow, rect, masks), (v) => (v >= 0.5 ? 1 : 0))
      : new Uint8Array(rect.w * rect.h).fill(1);
    for (const zone of avoided)
      rasteriseArea(zone, rect, masks).forEach((v, i) => {
        if (v > 0) out[i] = 0;
      });
    return out;
  }

  /** The tile's picture after the steps before `position`; null when that is the photo itself. Not to be changed. */
  private tileAt(tile: number, position: number): FloatImage | null {
    return this.tileAtDepth(tile, this.depthAt(tile, position));
  }

  private tileAtDepth(tile: number, depth: number): FloatImage | null {
    if (depth === 0) return null;
    const key = this.keyAtDepth(tile, depth);
    const cached = this.tiles.get(key);
    if (cached) return cached;
    let from = depth - 1;
    while (from > 0 && !this.tiles.has(this.keyAtDepth(tile, from))) from--;
    const { tx, ty } = tileOfKey(tile);
    const image = makeFloatImage(tileRect(tx, ty, this.bounds));
    if (from > 0) image.data.set(this.tiles.get(this.keyAtDepth(tile, from))!.data);
    else readRaster(this.photo, image.rect, image);
    const list = this.stepsByTile.get(tile)!;
    for (let d = from; d < depth; d++) this.apply(list[d], tile, image);
    this.tiles.set(key, image, image.data.byteLength);
    return image;
  }

  /** The finished picture of a part of one tile, without keeping it: for strokes, whose pixels change at once again. */
  partOfTile(tile: number, part: Rect, keptBelow: string): FloatImage {
    const image = makeFloatImage(part);
    const list = this.stepsByTile.get(tile) ?? [];
    const position = this.positions.get(keptBelow) ?? this.steps.length;
    const below = this.tileAt(tile, position) ?? this.photoTile(tile);
    if (below) copyFloat(below, image);
    else readRaster(this.photo, part, image);
    for (const index of list) if (index >= position) this.apply(index, tile, image);
    return image;
  }

  private apply(index: number, tile: number, image: FloatImage): void {
    const step = this.steps[index];
    if (step.kind === 'close')
      return this.closeLayer(step, index, tile, image, this.readAt(image.rect, step.opened));
    const at = intersect(step.affected, image.rect);
    if (isEmpty(at)) return;
    const patch = this.patchFor(step, index, tile, at);
    if (!patch) return;
    compositePatch(
      image,
      patch.image,
      this.leftOver(step.mend, patch, at),
      patch.image.rect,
      at,
      step.mend.opacity,
      step.mend.blend,
    );
  }

  /** A patch's coverage within `at`, less what was rubbed away there. */
  private leftOver({ rubbed }: Mend, { image, coverage }: Patch, at: Rect): Float32Array {
    if (!rubbed) return coverage;
    const { rect } = image;
    const out = coverage.slice();
    const away = rasteriseArea(rubbed, at, this.sources.masks);
    for (let y = 0; y < at.h; y++) {
      const i = (at.y + y - rect.y) * rect.w + at.x - rect.x;
      for (let x = 0; x < at.w; x++) out[i + x] *= 1 - away[y * at.w + x];
    }
    return out;
  }

  private patchFor(
    step: Extract<Step, { kind: 'mend' }>,
    index: number,
    tile: number,
    at: Rect,
  ): Patch | null {
    const { mend, method } = step;
    try {
      if (method.scope === 'kept') return method.evaluate(mend, at, this.contextOf(mend));
      const isDraft = this.draft?.mendId === mend.id;
      if (isDraft && this.underBrush) return this.underBrush.patch(mend, at, this.contextOf(mend));
      if (method.scope === 'tile' && isDraft) return method.evaluate(mend, at, this.contextOf(mend));
      // Parts of one patch in several tiles may read the same tiles: the tile itself tells them apart.
      const key =
        method.scope === 'tile' ? `${this.patchKey(index, tile)}@${tile}` : this.patchKey(index, tile);
      const cached = this.patches.get(key);
      if (cached) return cached;
      const output =
        method.scope === 'tile' ? intersect(this.rectOfTile(tile), step.affected) : step.affected;
      const patch = method.evaluate(mend, output, this.contextOf(mend));
      this.patches.set(key, patch, patch.image.data.byteLength + patch.coverage.byteLength);
      return patch;
    } catch (error) {
      this.failed.set(mend.id, messageOf(error));
      return null;
    }
  }

  private rectOfTile(tile: number): Rect {
    const { tx, ty } = tileOfKey(tile);
    return tileRect(tx, ty, this.bounds);
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
      for (const i of this.stepsByTile.get(tile) ?? []) {
        const inner = this.steps[i];
        if (i < step.opened || i >= index || inner.kind !== 'mend') continue;
        const at = intersect(inner.affected, image.rect);
        const patch = isEmpty(at) ? null : this.patchFor(inner, i, tile, at);
        if (patch)
          joinCoverage(
            alpha,
            image.rect,
            { image: patch.image, coverage: this.leftOver(inner.mend, patch, at) },
            at,
            inner.mend.opacity,
          );
      }
    }
    compositeLayer(below, image, alpha, step.layer.opacity, step.layer.blend);
  }

  private coverage(mend: Mend, rect: Rect): Float32Array {
    if (this.draft?.mendId === mend.id) return this.draft.coverage(rect);
    const areaKey = this.areaKey(mend);
    const out = new Float32Array(rect.w * rect.h);
    for (const tile of tilesIn(rect, this.bounds)) {
      const { tx, ty } = tileOfKey(tile);
      const whole = tileRect(tx, ty, this.bounds);
      const part = intersect(whole, rect);
      const key = `${areaKey}:${tile}`;
      let covered = this.coverages.get(key);
      if (!covered) {
        covered = rasteriseArea(mend.area, whole, this.sources.masks);
        this.coverages.set(key, covered, covered.byteLength);
      }
      if (sameRect(part, whole) && sameRect(part, rect)) return covered.slice();
      for (let y = part.y; y < part.y + part.h; y++) {
        const i = (y - whole.y) * whole.w + part.x - whole.x;
        out.set(covered.subarray(i, i + part.w), (y - rect.y) * rect.w + part.x - rect.x);
      }
    }
    return out;
  }

  private chosen(mend: Mend, rect: Rect): FloatImage | null {
    const kept = mend.chosenTry ? this.sources.tries(mend.chosenTry) : undefined;
    if (!kept) return null;
    const image = makeFloatImage(rect);
    const at = intersect({ x: kept.x, y: kept.y, w: kept.w, h: kept.h }, rect);
    if (isEmpty(at)) return image;
    const raster: Raster = {
      width: kept.w,
      height: kept.h,
      channels: 4,
      depth: this.photo.depth,
      data: kept.data,
    };
    const local = makeFloatImage({ x: at.x - kept.x, y: at.y - kept.y, w: at.w, h: at.h });
    readRaster(raster, local.rect, local);
    copyFloat({ rect: at, data: local.data }, image);
    return image;
  }
}

/** α ← α + c − α·c, the union of coverages. */
function joinCoverage(alpha: Float32Array, rect: Rect, patch: Patch, at: Rect, opacity: number): void {
  const from = patch.image.rect;
  for (let y = at.y; y < at.y + at.h; y++)
    for (let x = at.x; x < at.x + at.w; x++) {
      const c = patch.coverage[(y - from.y) * from.w + x - from.x] * opacity;
      const i = (y - rect.y) * rect.w + x - rect.x;
      alpha[i] += c - alpha[i] * c;
    }
}
