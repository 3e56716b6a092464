import { intersect, type Rect } from '../../raster';
import { point } from '../../solve';

/** Side of the squares in which cells are kept. */
const blockSide = 64;

interface Block {
  readonly rect: Rect;
  readonly kind: Uint8Array;
  /** Four numbers a cell, the fourth 0. */
  readonly values: Float32Array;
  /** What the cells had when their pixels were shown last. */
  readonly shown: Float32Array;
}

/** Cells of a grid without end, of which only those squares are kept where there is something. All others are away. */
export class ToneCells {
  private readonly blocks = new Map<string, Block>();

  /** Runs of a rectangle's cells that lie together. Those of squares that are not kept are left out.
   *  @param run  the block, the index there, the index in the rectangle, and how many */
  each(cells: Rect, run: (block: Block, at: number, from: number, count: number) => void): void {
    this.eachBlock(cells, false, (block) => {
      const part = intersect(block.rect, cells);
      for (let y = part.y; y < part.y + part.h; y++)
        run(
          block,
          (y - block.rect.y) * blockSide + part.x - block.rect.x,
          (y - cells.y) * cells.w + part.x - cells.x,
          part.w,
        );
    });
  }

  /** Makes room for cells. */
  keep(cells: Rect): void {
    this.eachBlock(cells, true, () => {});
  }

  /** What cells are and have, row by row. */
  read(cells: Rect): { kind: Uint8Array; values: Float32Array } {
    const kind = new Uint8Array(cells.w * cells.h).fill(point.away);
    const values = new Float32Array(4 * cells.w * cells.h);
    this.each(cells, (block, at, from, count) => {
      kind.set(block.kind.subarray(at, at + count), from);
      values.set(block.values.subarray(4 * at, 4 * (at + count)), 4 * from);
    });
    return { kind, values };
  }

  /** The rectangles of all squares that are kept. */
  kept(): Rect[] {
    return [...this.blocks.values()].map(({ rect }) => rect);
  }

  private eachBlock({ x, y, w, h }: Rect, makes: boolean, each: (block: Block) => void): void {
    if (w <= 0 || h <= 0) return;
    for (let by = Math.floor(y / blockSide); by * blockSide < y + h; by++)
      for (let bx = Math.floor(x / blockSide); bx * blockSide < x + w; bx++) {
        const key = `${bx},${by}`;
        let block = this.blocks.get(key);
        if (!block && makes) {
          block = emptyBlock({ x: bx * blockSide, y: by * blockSide, w: blockSide, h: blockSide });
          this.blocks.set(key, block);
        }
        if (block) each(block);
      }
  }
}

function emptyBlock(rect: Rect): Block {
  const count = rect.w * rect.h;
  return {
    rect,
    kind: new Uint8Array(count).fill(point.away),
    values: new Float32Array(4 * count),
    shown: new Float32Array(4 * count),
  };
}
