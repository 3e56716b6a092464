import type { Mend } from '../../core/job';
import type { TilePixels } from '../../runtime/engine/protocol';
import type { StrokePoint } from '../tools/gesture';
import { toSixteenth } from './new-mend';

/** What the feed needs of the engine. */
export interface StrokeEngine {
  begin(mend: Mend, layerId: string): Promise<unknown>;
  extend(points: readonly StrokePoint[]): Promise<TilePixels[]>;
  /** What was left behind. */
  settle(): Promise<TilePixels[]>;
  end(): Promise<unknown>;
}

/** A hand that stays where it is for so long is looking. */
const restMs = 120;

/** Sends a stroke's points to the engine while it is painted: one request at a time, whatever came meanwhile in the next,
 *  so that a slow mend falls behind in steps and never piles up work. When the hand rests, the whole is brought up to date.
 *  What cannot be shown, as when the engine dies on the way, is not lost: the path is kept here, and makes the mend. */
export class StrokeFeed {
  private points: StrokePoint[] = [];
  private unsent: StrokePoint[] = [];
  private sending: Promise<void> | null = null;
  private since: number | null = null;
  private rest: ReturnType<typeof setTimeout> | undefined;

  /** @param onParts  takes what has changed, and since when it was asked for; null: nobody did */
  constructor(
    readonly mend: Mend,
    readonly layerId: string,
    private readonly engine: StrokeEngine,
    private readonly onParts: (parts: TilePixels[], sinceMs: number | null) => void,
  ) {
    const [shape] = mend.area.shapes;
    if (shape.kind === 'stroke') this.points = [...shape.points];
    void engine.begin(mend, layerId).catch(() => {});
    this.add(this.points.slice(-1), performance.now());
  }

  add(points: readonly StrokePoint[], atMs: number): void {
    const rounded = points.map(([x, y, p]) => [toSixteenth(x), toSixteenth(y), toSixteenth(p)] as const);
    this.unsent.push(...rounded);
    this.since ??= atMs;
    clearTimeout(this.rest);
    this.sending ??= this.send();
  }

  private async send(): Promise<void> {
    while (this.unsent.length > 0) {
      const points = this.unsent;
      const since = this.since ?? performance.now();
      this.unsent = [];
      this.since = null;
      this.points.push(...points);
      const parts = await this.engine.extend(points).catch(() => null);
      if (parts) this.onParts(parts, since);
    }
    this.rest = setTimeout(() => {
      this.sending ??= this.settle();
    }, restMs);
    this.sending = null;
  }

  private async settle(): Promise<void> {
    const parts = await this.engine.settle().catch(() => null);
    if (parts) this.onParts(parts, null);
    this.sending = null;
    if (this.unsent.length > 0) this.sending = this.send();
  }

  /** Waits until all is shown, and returns the finished mend with the whole path. */
  async finish(): Promise<Mend> {
    while (this.sending) await this.sending;
    clearTimeout(this.rest);
    const [shape] = this.mend.area.shapes;
    const points = this.points.slice(1);
    const whole =
      shape.kind === 'stroke' ? { ...shape, points: points.length > 0 ? points : this.points } : shape;
    return { ...this.mend, area: { ...this.mend.area, shapes: [whole] } };
  }

  async cancel(): Promise<void> {
    this.unsent = [];
    await this.sending;
    clearTimeout(this.rest);
    await this.engine.end();
  }
}
