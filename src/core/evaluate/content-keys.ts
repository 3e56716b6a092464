import type { Area, Mask, MaskLookup } from '../area';
import type { Mend, Steer, TryLookup, TryPixels, Zones } from '../job/types';
import { methods } from '../methods';
import { contentKey, contentKeyOf } from '../random';

/** Where the evaluator finds pixels that are kept beside the job. */
export interface PixelSources {
  readonly masks: MaskLookup;
  readonly tries: TryLookup;
}

/** What a mend with tries shows: the chosen one, and while that is not computed, the last before it that is. */
export function shownTry({ tries, chosenTry }: Mend, held: TryLookup): TryPixels | undefined {
  const chosen = chosenTry ? held(chosenTry) : undefined;
  if (chosen) return chosen;
  for (let k = tries.findIndex(({ id }) => id === chosenTry) - 1; k >= 0; k--) {
    const pixels = held(tries[k].id);
    if (pixels) return pixels;
  }
  return undefined;
}

/** Keys of what goes into a mend: equal for what gives equal pixels. Each is made once for each object. */
export class ContentKeys {
  private readonly paramKeys = new WeakMap<Mend, string>();
  private readonly areaKeys = new WeakMap<object, string>();
  private readonly maskKeys = new WeakMap<Mask, string>();
  private readonly triesKeys = new WeakMap<TryPixels, string>();

  constructor(private readonly sources: PixelSources) {}

  params(mend: Mend): string {
    let key = this.paramKeys.get(mend);
    if (!key) {
      const { method, source, reads, params } = mend;
      const parts: unknown[] = [
        method,
        methods[method].version,
        source,
        reads,
        Object.entries(params).sort(),
      ];
      if (reads === 'chosen') parts.push(mend.readLayers);
      if (methods[method].scope !== 'kept' && (mend.steer.plane || mend.stops.length > 0))
        parts.push(mend.steer.plane, mend.stops);
      key = contentKey(JSON.stringify(parts));
      this.paramKeys.set(mend, key);
    }
    return key;
  }

  /** Masks count by what they hold, not by their ids. */
  shapes(shapes: Area | Steer | Zones): string {
    let key = this.areaKeys.get(shapes);
    if (!key) {
      key = contentKey(
        JSON.stringify(shapes, (name, value) => (name === 'maskId' ? this.mask(value) : value)),
      );
      this.areaKeys.set(shapes, key);
    }
    return key;
  }

  /** By what the try that a mend shows holds, not by its id, for the same reason. */
  tried(mend: Mend): string {
    const kept = shownTry(mend, this.sources.tries);
    if (!kept) return 'none';
    let key = this.triesKeys.get(kept);
    if (!key) {
      const { data, x, y, w, h } = kept;
      key = `${x},${y},${w},${h}:${contentKeyOf(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))}`;
      this.triesKeys.set(kept, key);
    }
    return key;
  }

  /** By what a mask holds, not by its id: ids change when a job is copied. */
  private mask(maskId: string): string {
    const mask = this.sources.masks(maskId);
    if (!mask) return `missing:${maskId}`;
    let key = this.maskKeys.get(mask);
    if (!key) {
      key = contentKeyOf(mask.data);
      this.maskKeys.set(mask, key);
    }
    return key;
  }
}
