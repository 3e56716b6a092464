import { boundsOfArea } from '../../core/area';
import { changeMend, type Mend } from '../../core/job';
import type { SourceMap } from '../../core/match';
import { methods } from '../../core/methods';
import type { Point } from '../viewport/camera';
import type { Session } from './session';

const hoverMs = 150;

/** Looks round for sources: how well the one at hand matches, where better ones lie. Asks the engine one question at a
 *  time, always the newest. */
export class Scout {
  private asking = false;
  /** Hovering asks again after a while only, so that a stroke which begins seldom has to wait for an answer. */
  private hovered: Mend | null = null;
  private hoveredAt: Point | null = null;
  private hoverTimer: ReturnType<typeof setTimeout> | undefined;
  private wanted: Mend | null = null;
  private mapping = false;
  /** What the map that is shown, or being made, was asked for. */
  private mapFor = '';

  constructor(private readonly session: Session) {}

  /** Follows a source that is being set or moved. */
  watch(mend: Mend): void {
    const { source } = mend;
    if (!source) return;
    const box = boundsOfArea(mend.area);
    const target = [box.x + box.w / 2, box.y + box.h / 2] as const;
    this.session.set({ dragging: { target, source: [target[0] + source.dx, target[1] + source.dy] } });
    this.ask(mend);
  }

  /** The brush moved without painting. */
  hover(point: Point): void {
    this.hoveredAt = point;
    this.hovered = this.session.painting.hovering(point);
    if (!this.hovered && this.session.state.match) this.session.set({ match: null });
    if (this.hovered) this.hoverTimer ??= setTimeout(() => this.askHovered(), hoverMs);
  }

  /** The brush's source or size changed under a resting hand. */
  hoverAgain(): void {
    if (this.hoveredAt && this.session.state.match) this.hover(this.hoveredAt);
  }

  /** The picture changed under a resting hand; after a stroke that can wait. */
  async pictureChanged(): Promise<void> {
    await this.session.quiet.comes();
    this.hoverAgain();
  }

  close(): void {
    this.hoveredAt = null;
    clearTimeout(this.hoverTimer);
  }

  private askHovered(): void {
    this.hoverTimer = undefined;
    if (this.hovered && !this.session.painting.isLive) this.ask(this.hovered);
  }

  rest(): void {
    this.wanted = null;
    if (this.session.state.dragging) this.session.set({ dragging: null });
  }

  private ask(mend: Mend): void {
    this.wanted = mend;
    if (!this.asking) void this.askOn();
  }

  private async askOn(): Promise<void> {
    this.asking = true;
    try {
      while (this.wanted) {
        const mend = this.wanted;
        this.wanted = null;
        const match = await this.session.engine.call('matchFigures', { mend }).catch(() => null);
        this.session.set({ match });
      }
    } finally {
      this.asking = false;
    }
  }

  // The source map

  /** Shows or hides the map of sources: for the chosen mend, what is marked, or the brush. */
  toggleMap(): void {
    const wanted = !this.session.state.mapWanted;
    this.session.set({ mapWanted: wanted, ...(!wanted && { sourceMap: null }) });
    this.mapFor = '';
    if (wanted) this.refreshMap();
  }

  /** Called whenever something changed that the map may depend on. */
  refreshMap(): void {
    if (!this.session.state.mapWanted || this.mapping) return;
    const mend = this.subject();
    if (!mend) return;
    const question = JSON.stringify([mend.area, mend.steer, mend.method, this.session.state.job?.zones]);
    if (question === this.mapFor) return;
    this.mapFor = question;
    this.mapping = true;
    void this.session.engine
      .call('sourceMap', { mend })
      .then(async (map) => {
        const picture = await pictureOf(map);
        if (this.session.state.mapWanted) this.session.set({ sourceMap: { picture, scale: map.scale } });
      })
      .catch(() => {})
      .finally(() => {
        this.mapping = false;
        this.refreshMap();
      });
  }

  /** What sources are looked for. */
  private subject(): Mend | null {
    const { chosen, job, mark, method, next } = this.session.state;
    if (mark && job)
      return this.session.mending.mendFor(
        method && methods[method].needsSource ? method : 'heal',
        mark,
        next,
      );
    const mend = chosen ? this.session.mendOf(chosen) : null;
    if (mend && mend.method !== 'paint' && mend.method !== 'knit') return mend;
    const at = this.session.view?.pointerInPhoto;
    return at ? this.session.painting.hovering(at) : null;
  }

  /** Takes the best source for the chosen mend, or for the brush where it is. */
  async takeBest(mendId: string): Promise<void> {
    const mend = this.session.mendOf(mendId);
    if (!mend) return;
    const source = await this.session.mending.findSource(mend);
    const before = this.session.mendOf(mendId)?.source;
    if (source) this.session.run(changeMend(mendId, 'best source', { source: { ...before, ...source } }));
    else this.session.notify('No place on this photo would serve as a source here.', 'warning');
  }
}

/** Poor places under a veil, good ones clear, the best ones tinted. */
function pictureOf({ w, h, score }: SourceMap): Promise<ImageBitmap> {
  const data = new Uint8ClampedArray(w * h * 4);
  const sorted = score.filter((v) => v > 0).sort();
  const best = sorted[Math.floor(sorted.length * 0.985)] ?? 1;
  const good = sorted[Math.floor(sorted.length * 0.9)] ?? 1;
  for (let i = 0; i < w * h; i++) {
    const v = Number.isNaN(score[i]) ? 0 : score[i];
    if (v >= best && v > 0) data.set([255, 176, 60, 120], 4 * i);
    else data.set([18, 18, 18, Math.round(160 * (1 - Math.min(1, v / good)))], 4 * i);
  }
  return createImageBitmap(new ImageData(data, w, h));
}
