import { boundsOfArea } from '../../core/area';
import type { Mend } from '../../core/job';
import { grow, intersect, type Rect } from '../../core/raster';
import type { FlatFormat, Side } from '../../runtime/engine/protocol';
import type { Session } from './session';

/** The shelf's pictures of a job are made anew when nothing has changed for so long. */
const restMs = 1500;
const shelfSidePx = 360;

/** Pictures of the open job for panels, shelf and files. */
export class Pictures {
  private timer: ReturnType<typeof setTimeout> | null = null;

  constructor(private readonly session: Session) {}

  close(): void {
    if (this.timer) clearTimeout(this.timer);
  }

  crop(side: Side, rect: Rect, maxSidePx: number, instead?: Mend): Promise<Blob> {
    return this.session.engine.call('crop', { side, rect, maxSidePx, instead });
  }

  /** The same when nobody paints: for pictures that nobody waits for. */
  async cropInQuiet(side: Side, rect: Rect, maxSidePx: number): Promise<Blob> {
    await this.session.quiet.comes();
    return this.crop(side, rect, maxSidePx);
  }

  /** The part of the photo that shows a mend, with a little round it. */
  mendRect(mend: Mend): Rect {
    const { width, height } = this.session.state.job!.photo;
    const box = boundsOfArea(mend.area);
    const room = Math.ceil(Math.max(box.w, box.h) * 0.15) + 8;
    return intersect(grow(box, room), { x: 0, y: 0, w: width, h: height });
  }

  /** The whole picture as a file. */
  flatten(format: FlatFormat, onShare: (share: number) => void): Promise<Uint8Array<ArrayBuffer>> {
    return this.session.engine.call('flatten', format, { onProgress: ({ share }) => onShare(share) });
  }

  /** Something has changed: the shelf's pictures are made anew soon. Should it fail, it keeps the old ones. */
  refresh(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.keepForShelf().catch(() => {}), restMs);
  }

  private async keepForShelf(): Promise<void> {
    const { session } = this;
    const { job, readOnly } = session.state;
    if (!job || readOnly) return;
    const rect = { x: 0, y: 0, w: job.photo.width, h: job.photo.height };
    const before = await this.cropInQuiet('before', rect, shelfSidePx);
    const after = await this.cropInQuiet('after', rect, shelfSidePx);
    await session.jobs.setThumbs(job.id, before, after);
  }
}
