import { applyPatches, enablePatches, type Patch } from 'immer';
import type { Mask } from '../../core/area';
import { InputError, InvariantError } from '../../core/errors';
import { Evaluator, renderPicture } from '../../core/evaluate';
import {
  allMends,
  asTried,
  type Job,
  type Mend,
  type SourceShift,
  type StopLine,
  type TryPixels,
} from '../../core/job';
import type { Outlook } from '../../core/marking';
import type { MatchFigures, SourceMap } from '../../core/match';
import { fillInputOf, keepsDirections, methods, stopsFor } from '../../core/methods';
import type { FillInput } from '../../core/methods/fill/compute';
import { intersect, isEmpty, type Raster, type Rect } from '../../core/raster';
import { Display } from './display';
import { Marking } from './marking';
import { Matching } from './matching';
import type { MendState, Side, TilePixels, TileRequest } from './protocol';
import { Stroke } from './stroke';

enablePatches();

/** One open job's pixels: photo, evaluator, tiles for the screen and the stroke under way. Runs in a worker; has no
 *  interface of its own, so tests run it in-process. */
export class Engine {
  private readonly tries = new Map<string, TryPixels>();
  private readonly masks = new Map<string, Mask>();
  private readonly evaluator: Evaluator;
  readonly display: Display;
  private readonly matching: Matching;
  readonly marking: Marking;
  private job: Job | null = null;
  private shownJob: Job | null = null;
  /** Mends that are shown otherwise than the job has them. */
  private previewed: ReadonlySet<string> = new Set();
  private stroke: { stroke: Stroke; layerId: string } | null = null;

  constructor(
    readonly photo: Raster,
    photoKey: string,
  ) {
    const sources = { masks: (id: string) => this.masks.get(id), tries: (id: string) => this.tries.get(id) };
    this.evaluator = new Evaluator(photo, photoKey, sources);
    this.display = new Display(photo, this.evaluator);
    this.matching = new Matching(this.display.pyramid);
    this.marking = new Marking(this.display, sources.masks);
  }

  setJob(job: Job): void {
    this.job = job;
    this.previewed = new Set();
    this.show(job);
  }

  patchJob(patches: readonly Patch[]): void {
    this.setJob(applyPatches(this.need(), patches as Patch[]));
  }

  previewJob(patches: readonly Patch[] | null): void {
    const job = this.need();
    const shown = patches ? applyPatches(job, patches as Patch[]) : job;
    const before = new Set(allMends(job));
    this.previewed = new Set(
      allMends(shown)
        .filter((m) => !before.has(m))
        .map((m) => m.id),
    );
    this.show(shown);
  }

  addPixels(tries: readonly TryPixels[], masks: readonly { id: string; mask: Mask }[]): void {
    for (const t of tries) this.tries.set(t.tryId, t);
    for (const { id, mask } of masks) this.masks.set(id, mask);
    if (this.shownJob) this.show(this.shownJob);
  }

  tiles(wanted: readonly TileRequest[]): TilePixels[] {
    return wanted.map((request) => this.display.tile(request));
  }

  get isPainting(): boolean {
    return this.stroke !== null;
  }

  beginStroke(mend: Mend, layerId: string): void {
    this.stroke = { stroke: new Stroke(mend, this.evaluator.bounds), layerId };
    this.show(this.need());
  }

  extendStroke(points: readonly (readonly [number, number, number])[], level: number): TilePixels[] {
    if (!this.stroke) throw new InvariantError('No stroke is under way.');
    const { stroke } = this.stroke;
    const changed = stroke.extend(points);
    return this.strokeParts(this.evaluator.updateDraft(stroke.mend, changed), level);
  }

  /** What of the stroke under way was left behind while it was painted, brought up to date. */
  settleStroke(level: number): TilePixels[] {
    return this.stroke ? this.strokeParts(this.evaluator.settleDraft(), level) : [];
  }

  private strokeParts(dirty: readonly Rect[], level: number): TilePixels[] {
    const { stroke } = this.stroke!;
    return dirty.flatMap((part) =>
      this.display.refresh(part, level, (tile, rect) => this.evaluator.partOfTile(tile, rect, stroke.mendId)),
    );
  }

  endStroke(): void {
    this.stroke = null;
    if (this.job) this.show(this.job);
  }

  mendStates(): Record<string, MendState> {
    const out: Record<string, MendState> = {};
    const job = this.need();
    for (const [id, reason] of this.evaluator.failures()) out[id] = { state: 'failed', reason };
    for (const mend of allMends(job)) {
      if (methods[mend.method].scope !== 'kept') continue;
      const kept = mend.chosenTry ? this.tries.get(mend.chosenTry) : undefined;
      if (!kept) out[mend.id] = { state: 'missing' };
      else if (mend.visible && this.isStale(kept, mend)) out[mend.id] = { state: 'stale' };
    }
    return out;
  }

  /** Everything that a fill needs to be computed elsewhere. */
  fillInput(mend: Mend, tryId: string | null): { input: FillInput; inputKey: string } {
    const tried = asTried(mend, tryId);
    return {
      input: fillInputOf(tried.mend, this.evaluator.contextOf(mend), tried.seed),
      inputKey: this.evaluator.inputKey(tried.mend),
    };
  }

  heldTries(ids: readonly string[]): string[] {
    return ids.filter((id) => this.tries.has(id));
  }

  /** Those of a mend's tries that were computed from something else than they would be now. */
  staleTries(mend: Mend): string[] {
    return mend.tries
      .map(({ id }) => id)
      .filter((id) => {
        const held = this.tries.get(id);
        return held !== undefined && this.isStale(held, mend);
      });
  }

  private isStale({ tryId, inputKey }: TryPixels, mend: Mend): boolean {
    return inputKey !== this.evaluator.inputKey(asTried(mend, tryId).mend);
  }

  findSources(mend: Mend): SourceShift[] {
    return this.matching.sources(mend, this.evaluator.contextOf(mend));
  }

  sourceMap(mend: Mend): SourceMap {
    return this.matching.map(mend, this.evaluator.contextOf(mend));
  }

  matchFigures(mend: Mend): MatchFigures | null {
    return this.matching.figures(mend, this.evaluator.contextOf(mend));
  }

  outlook(mend: Mend): Outlook | null {
    const { mayDraw, allowedWithin } = this.evaluator.contextOf(mend);
    return this.marking.outlook(mend.area, mayDraw, keepsDirections(mend) ? null : allowedWithin);
  }

  /** Stretches of a mend's rim that seem to touch something else. */
  likelyStops(mend: Mend, isAsked: boolean): StopLine[] {
    return stopsFor(mend, this.evaluator.contextOf(mend), isAsked);
  }

  /** Colour and grain of the picture round a point. */
  pickPaint(x: number, y: number, radiusPx: number): Record<string, number> {
    const { evaluator } = this;
    return this.matching.paint((rect) => evaluator.picture(rect), evaluator.bounds, x, y, radiusPx);
  }

  /** 8-bit pixels of a part of the picture, from the level that is just large enough. */
  crop(
    side: Side,
    rect: Rect,
    maxSidePx: number,
  ): { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } {
    let level = 0;
    const { pyramid } = this.display;
    while (level < pyramid.length - 1 && Math.max(rect.w, rect.h) / 2 ** (level + 1) >= maxSidePx) level++;
    const by = 2 ** level;
    const at = intersect(
      {
        x: Math.floor(rect.x / by),
        y: Math.floor(rect.y / by),
        w: Math.max(1, Math.round(rect.w / by)),
        h: Math.max(1, Math.round(rect.h / by)),
      },
      { x: 0, y: 0, w: pyramid[level].width, h: pyramid[level].height },
    );
    if (isEmpty(at)) throw new InputError('outside', 'That part lies outside the photo.');
    return { width: at.w, height: at.h, data: this.display.region(side, level, at) };
  }

  /** The same with a mend of the job as it would be. */
  cropInstead(mend: Mend, rect: Rect, maxSidePx: number): ReturnType<Engine['crop']> {
    const job = this.need();
    const shown = this.shownJob ?? job;
    const layers = job.layers.map((layer) => ({
      ...layer,
      mends: layer.mends.map((m) => (m.id === mend.id ? mend : m)),
    }));
    this.evaluator.setJob({ ...job, layers });
    try {
      return this.crop('after', rect, maxSidePx);
    } finally {
      this.show(shown);
    }
  }

  flatten(onProgress: (share: number) => void): Raster {
    const picture = renderPicture(this.evaluator, this.photo, onProgress);
    // Encoding needs several times the picture's size.
    this.evaluator.letGo();
    return picture;
  }

  private show(job: Job): void {
    this.shownJob = job;
    if (!this.stroke) return this.evaluator.setJob(job, null, this.previewed);
    const { stroke, layerId } = this.stroke;
    const layers = job.layers.map((l) => (l.id === layerId ? { ...l, mends: [...l.mends, stroke.mend] } : l));
    this.evaluator.setJob({ ...job, layers }, stroke);
  }

  private need(): Job {
    if (!this.job) throw new InvariantError('No job was set.');
    return this.job;
  }
}
