import { type Rect, tileKey, tileSize } from '../../core/raster';
import type { Side, TilePixels, TileRequest } from '../../runtime/engine/protocol';

interface Entry {
  readonly canvas: OffscreenCanvas;
  readonly rect: Rect;
  key: string;
  /** The picture's revision at which this tile was last known to be right. */
  revision: number;
  used: number;
}

/** A tile to draw: a part of a canvas, and where it lies in the document. */
export interface DrawableTile {
  readonly canvas: OffscreenCanvas;
  readonly from: Rect;
  readonly docRect: Rect;
}

const mostTiles = 180;
/** Few, so that a stroke that begins need not wait long. */
const batch = 6;

/** The tiles on the screen's side. Stale and coarser ones are shown while the right ones are on their way; what left the
 *  view is never asked for. */
export class TileStore {
  private readonly entries = new Map<string, Entry>();
  private readonly wanted = new Map<string, { side: Side; level: number; tile: number; near: number }>();
  private asking = false;
  private frame = 0;
  /** True when the last frame lacked nothing. */
  idle = false;
  private revision = 1;

  constructor(
    private readonly photo: { width: number; height: number },
    private readonly levels: number,
    private readonly ask: (wanted: TileRequest[]) => Promise<TilePixels[]>,
    private readonly onTiles: () => void,
  ) {}

  /** The level whose pixels are at least as fine as the screen's. */
  levelFor(zoom: number): number {
    return Math.max(0, Math.min(this.levels - 1, Math.floor(Math.log2(1 / zoom) + 0.001)));
  }

  /** The picture has changed: everything on the screen must be asked for again. */
  touch(): void {
    this.revision++;
  }

  /** What to draw for a document rectangle, and whether that is the whole of it. Call {@link settle} after all questions of a frame. */
  tilesFor(side: Side, level: number, view: Rect): { tiles: DrawableTile[]; isWhole: boolean } {
    this.frame++;
    const span = tileSize * 2 ** level;
    const tiles: DrawableTile[] = [];
    let isWhole = true;
    const x1 = Math.min(this.photo.width, view.x + view.w);
    const y1 = Math.min(this.photo.height, view.y + view.h);
    const mx = view.x + view.w / 2;
    const my = view.y + view.h / 2;
    for (let ty = Math.max(0, Math.floor(view.y / span)); ty * span < y1; ty++)
      for (let tx = Math.max(0, Math.floor(view.x / span)); tx * span < x1; tx++) {
        const tile = tileKey(tx, ty);
        const entry = this.entries.get(`${side}:${level}:${tile}`);
        if (!entry || (side === 'after' && entry.revision !== this.revision)) {
          const near = Math.hypot((tx + 0.5) * span - mx, (ty + 0.5) * span - my);
          this.wanted.set(`${side}:${level}:${tile}`, { side, level, tile, near });
        }
        if (entry) {
          entry.used = this.frame;
          const { rect } = entry;
          const scale = 2 ** level;
          tiles.push({
            canvas: entry.canvas,
            from: { x: 0, y: 0, w: rect.w, h: rect.h },
            docRect: { x: rect.x * scale, y: rect.y * scale, w: rect.w * scale, h: rect.h * scale },
          });
        } else {
          const coarser = this.coarser(side, level, tx, ty);
          if (coarser) tiles.push(coarser);
          else isWhole = false;
        }
      }
    return { tiles, isWhole };
  }

  /** Asks for what the last frame lacked, nearest to the middle first, one batch at a time. */
  settle(): void {
    this.idle = !this.asking && this.wanted.size === 0;
    const chosen = [...this.wanted.values()].sort((a, b) => a.near - b.near).slice(0, batch);
    this.wanted.clear();
    if (this.asking || chosen.length === 0) return;
    this.asking = true;
    const revision = this.revision;
    const requests = chosen.map(({ side, level, tile }) => ({
      side,
      level,
      tile,
      have: this.entries.get(`${side}:${level}:${tile}`)?.key ?? null,
    }));
    this.ask(requests)
      .then((tiles) => {
        for (const tile of tiles) this.take(tile, revision);
      })
      .catch(() => {
        // The engine is gone or closing; the session says so. What is on the screen stays.
      })
      .finally(() => {
        this.asking = false;
        this.onTiles();
      });
  }

  /** Puts parts of tiles that a stroke has changed on the screen. */
  patch(parts: readonly TilePixels[]): void {
    for (const { side, level, tile, rect, data } of parts) {
      const entry = this.entries.get(`${side}:${level}:${tile}`);
      if (!entry || !data) continue;
      entry.canvas
        .getContext('2d')!
        .putImageData(new ImageData(data, rect.w, rect.h), rect.x - entry.rect.x, rect.y - entry.rect.y);
      entry.key = 'stroke';
    }
  }

  private take({ side, level, tile, key, rect, data }: TilePixels, revision: number): void {
    const at = `${side}:${level}:${tile}`;
    const known = this.entries.get(at);
    if (!data) {
      if (known) known.revision = revision;
      return;
    }
    const canvas = known?.canvas ?? new OffscreenCanvas(rect.w, rect.h);
    canvas.getContext('2d')!.putImageData(new ImageData(data, rect.w, rect.h), 0, 0);
    this.entries.set(at, { canvas, rect, key, revision, used: this.frame });
    if (this.entries.size > mostTiles) this.letGo();
  }

  private letGo(): void {
    const old = [...this.entries].sort((a, b) => a[1].used - b[1].used);
    for (const [key] of old.slice(0, old.length - mostTiles + 20)) this.entries.delete(key);
  }

  private coarser(side: Side, level: number, tx: number, ty: number): DrawableTile | null {
    const scale = 2 ** level;
    const doc = {
      x: tx * tileSize * scale,
      y: ty * tileSize * scale,
      w: Math.min(tileSize * scale, this.photo.width - tx * tileSize * scale),
      h: Math.min(tileSize * scale, this.photo.height - ty * tileSize * scale),
    };
    for (let up = level + 1; up < this.levels; up++) {
      const by = 2 ** (up - level);
      const entry = this.entries.get(`${side}:${up}:${tileKey(Math.floor(tx / by), Math.floor(ty / by))}`);
      if (!entry) continue;
      const s = 2 ** up;
      const from = { x: doc.x / s - entry.rect.x, y: doc.y / s - entry.rect.y, w: doc.w / s, h: doc.h / s };
      return { canvas: entry.canvas, from, docRect: doc };
    }
    return null;
  }
}
