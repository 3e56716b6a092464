import { boundsOfArea, boxesOfArea } from '../area';
import type { Mend, Zones } from '../job/types';
import { type MethodDefinition, methods } from '../methods';
import { contentKey } from '../random';
import { grow, intersect, type Rect, tileOfKey, tileRect, tileSize, tilesIn } from '../raster';
import type { ContentKeys } from './content-keys';
import type { Step } from './steps';
import { allowZoneOf } from './zones';

/** A stroke being painted: its coverage grows in place, so it is supplied instead of being rasterised again. */
export interface DraftCoverage {
  readonly mendId: string;
  /** Changes whenever the coverage does. */
  readonly revision: number;
  /** @param into  room for it, which may hold anything */
  coverage(rect: Rect, into: Float32Array): Float32Array;
}

export type MendStep = Extract<Step, { kind: 'mend' }>;

/** What a plan is made of. */
export interface Planned {
  readonly steps: readonly Step[];
  readonly zones: Zones;
  readonly draft?: DraftCoverage | null;
  /** Mends that are being dragged. */
  readonly previewed?: ReadonlySet<string>;
  /** The plan before it, of the same photo: what is known of the steps that both begin with is taken over. */
  readonly before?: Plan | null;
}

/** The steps of a job, which of them each tile goes through, and the content key of everything computed on the way: equal keys,
 *  equal pixels. Holds no pixels itself. A new version of the job gets a new plan; only the mend under way is replaced in it. */
export class Plan {
  steps: readonly Step[];
  private readonly zones: Zones;
  private readonly draft: DraftCoverage | null;
  private readonly previewed: ReadonlySet<string>;
  private readonly positions = new Map<string, number>();
  private readonly byTile = new Map<number, number[]>();
  private readonly tileKeys = new Map<number, string[]>();
  private readonly patchKeys = new Map<number, string>();

  constructor(
    private readonly bounds: Rect,
    private readonly photoKey: string,
    private readonly keys: ContentKeys,
    { steps, zones, draft = null, previewed = new Set(), before = null }: Planned,
  ) {
    this.steps = steps;
    this.zones = zones;
    this.draft = draft;
    this.previewed = previewed;
    const shared = before ? this.takeOver(before) : 0;
    steps.forEach((step, i) => {
      if (step.kind === 'mend') this.positions.set(step.mend.id, i);
      if (i < shared) return;
      for (const tile of tilesTouched(step, bounds)) {
        const list = this.byTile.get(tile);
        if (list) list.push(i);
        else this.byTile.set(tile, [i]);
      }
    });
  }

  /** @returns how many steps both begin with */
  private takeOver(before: Plan): number {
    let shared = 0;
    if (before.zones === this.zones) while (this.beginsAs(before, shared)) shared++;
    if (shared === 0) return 0;
    for (const [tile, list] of before.byTile) {
      const depth = before.depthAt(tile, shared);
      if (depth > 0) this.byTile.set(tile, list.slice(0, depth));
      const keys = before.tileKeys.get(tile);
      if (keys) this.tileKeys.set(tile, keys.slice(0, depth + 1));
    }
    for (const [index, key] of before.patchKeys) if (index < shared) this.patchKeys.set(index, key);
    return shared;
  }

  /** Whether a step is what it was, and nothing that its keys are made of has changed. */
  private beginsAs(before: Plan, index: number): boolean {
    const [one, other] = [this.steps.at(index), before.steps.at(index)];
    if (!one || !other || one.layerId !== other.layerId) return false;
    if (one.kind === 'close')
      return (
        other.kind === 'close' &&
        one.layer.opacity === other.layer.opacity &&
        one.layer.blend === other.layer.blend
      );
    if (other.kind !== 'mend' || one.mend !== other.mend || one.partSide !== other.partSide) return false;
    if (this.isPreview(one.mend) || before.isPreview(one.mend)) return false;
    const known = before.patchKeys.get(index);
    // What is kept beside the job may have come meanwhile.
    return one.method.scope !== 'kept' || known === undefined || known === this.keptKey(one.mend);
  }

  private keptKey(mend: Mend): string {
    return `kept:${this.keys.tried(mend)}:${this.areaKey(mend)}`;
  }

  /** Puts a new version of a mend in its place. Only what lies above it gets new keys.
   *  @returns its step as it is now; null when the job does not hold it */
  replace(mend: Mend): MendStep | null {
    const before = this.stepOf(mend.id);
    if (!before) return null;
    const position = this.positionOf(mend.id);
    const affected = before.method.affectedOutput(mend, this.bounds);
    const step = { ...before, mend, affected };
    this.steps = this.steps.with(position, step);
    for (const tile of tilesTouched(step, this.bounds)) {
      const list = this.byTile.get(tile);
      if (!list) this.byTile.set(tile, [position]);
      else if (!list.includes(position)) {
        list.push(position);
        list.sort((a, b) => a - b);
      }
    }
    for (const [tile, keys] of this.tileKeys)
      keys.length = Math.min(keys.length, this.depthAt(tile, position) + 1);
    for (const index of this.patchKeys.keys()) if (index >= position) this.patchKeys.delete(index);
    return step;
  }

  /** Where a mend comes; on top of everything when the job does not hold it (yet). */
  positionOf(mendId: string): number {
    return this.positions.get(mendId) ?? this.steps.length;
  }

  stepOf(mendId: string): MendStep | null {
    const step = this.steps[this.positions.get(mendId) ?? -1];
    return step?.kind === 'mend' ? step : null;
  }

  /** Positions of the steps that a tile goes through, rising. */
  stepsOf(tile: number): readonly number[] {
    return this.byTile.get(tile) ?? [];
  }

  /** Whether a mend is painted or dragged: near is enough then. */
  isPreview(mend: Mend): boolean {
    return this.draft?.mendId === mend.id || this.previewed.has(mend.id);
  }

  get isMoving(): boolean {
    return this.draft !== null || this.previewed.size > 0;
  }

  /** Below which nothing is being dragged; above all when nothing is. */
  get firstDragged(): number {
    return [...this.previewed].reduce((first, id) => Math.min(first, this.positionOf(id)), this.steps.length);
  }

  /** The steps of a tile below a position that a mend with a choice of layers reads. */
  stepsRead(mend: Mend, tile: number, position: number): number[] {
    const at = this.steps[Math.min(position, this.steps.length - 1)];
    const wanted = mend.reads === 'layer' ? [at?.layerId] : mend.readLayers;
    return this.stepsOf(tile).filter((i) => i < position && wanted.includes(this.steps[i].layerId));
  }

  /** Equal as long as a mend reads the same pixels with the same area and parameters. */
  inputKey(mend: Mend): string {
    const method = methods[mend.method];
    return this.makeInputKey(
      mend,
      method,
      method.affectedOutput(mend, this.bounds),
      this.positionOf(mend.id),
    );
  }

  /** How many of the tile's steps come before a position. */
  depthAt(tile: number, position: number): number {
    const list = this.byTile.get(tile);
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

  /** Equal for equal pixels of a tile after the steps before a position. */
  keyAt(tile: number, position: number): string {
    return this.keyAtDepth(tile, this.depthAt(tile, position));
  }

  /** The same after so many of the tile's own steps. */
  keyAtDepth(tile: number, depth: number): string {
    let keys = this.tileKeys.get(tile);
    if (!keys) {
      keys = [`${this.photoKey}:${tile}`];
      this.tileKeys.set(tile, keys);
    }
    const list = this.stepsOf(tile);
    while (keys.length <= depth) {
      const index = list[keys.length - 1];
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

  /** Equal for equal patches of a mend: of its part in the tile, or of all of it. */
  patchKey(index: number, tile: number): string {
    const step = this.steps[index] as MendStep;
    const { mend, method } = step;
    if (step.partSide) return this.makeInputKey(mend, method, partOf(step, tile), index);
    let key = this.patchKeys.get(index);
    if (!key) {
      key =
        method.scope === 'kept' ? this.keptKey(mend) : this.makeInputKey(mend, method, step.affected, index);
      this.patchKeys.set(index, key);
    }
    return key;
  }

  private makeInputKey(mend: Mend, method: MethodDefinition, output: Rect, position: number): string {
    const parts = [this.keys.params(mend), this.areaKey(mend)];
    if (this.isPreview(mend)) parts.push('preview');
    if (mend.pending) parts.push('pending', this.keys.shapes(mend.pending));
    if (method.scope === 'kept') parts.push(this.keys.shapes(mend.steer), this.keys.shapes(this.zones));
    for (const rect of method.requiredInput(mend, output, this.bounds, this.allowedWithin(mend)))
      for (const tile of tilesIn(rect, this.bounds)) parts.push(this.keyOfRead(mend, tile, position));
    return contentKey(parts.join('|'));
  }

  /** The box of the allow zone that holds for a mend; null: there is none. */
  allowedWithin(mend: Mend): Rect | null {
    const zone = allowZoneOf(mend, this.zones);
    return zone && intersect(boundsOfArea(zone), this.bounds);
  }

  areaKey(mend: Mend): string {
    if (this.draft?.mendId === mend.id) return `draft:${mend.id}:${this.draft.revision}`;
    return this.keys.shapes(mend.area);
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
}

/** The tiles that a step may change: of a long stroke, those that it runs through. */
function tilesTouched(step: Step, bounds: Rect): Iterable<number> {
  if (step.kind === 'close') return tilesIn(step.affected, bounds);
  // A heal takes in a pixel round its area.
  const boxes = boxesOfArea(step.mend.area).map((box) => intersect(grow(box, 1), step.affected));
  return new Set(boxes.flatMap((box) => tilesIn(box, bounds)));
}

/** The part of a mend's patch that a tile lies in: all of it, where it is computed in one piece. */
export function partOf({ affected, partSide }: MendStep, tile: number): Rect {
  if (!partSide) return affected;
  const { tx, ty } = tileOfKey(tile);
  const [x, y] = [tx, ty].map((t) => Math.floor((t * tileSize) / partSide) * partSide);
  return intersect({ x, y, w: partSide, h: partSide }, affected);
}

export function rectOfTile(tile: number, bounds: Rect): Rect {
  const { tx, ty } = tileOfKey(tile);
  return tileRect(tx, ty, bounds);
}
