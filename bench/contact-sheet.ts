import { writeFileSync } from 'node:fs';
import { encodePng } from '../src/core/formats';
import { makeRaster, type Raster, type Rect } from '../src/core/raster';

const cell = { w: 420, h: 300 };
const gap = 6;

/** A picture of several pictures: a row for each case, all cells of a row showing the same part. */
export class ContactSheet {
  private readonly rows: Raster[][] = [];

  add(rect: Rect, pictures: readonly Raster[]): void {
    this.rows.push(pictures.map((picture) => scaled(picture, rect)));
  }

  write(file: string): void {
    const columns = Math.max(...this.rows.map((row) => row.length));
    const sheet = makeRaster(columns * (cell.w + gap), this.rows.length * (cell.h + gap), 4, 8);
    sheet.data.fill(255);
    this.rows.forEach((row, r) => {
      row.forEach((picture, k) => {
        for (let y = 0; y < picture.height; y++)
          sheet.data.set(
            picture.data.subarray(4 * y * picture.width, 4 * (y + 1) * picture.width),
            4 * ((r * (cell.h + gap) + y) * sheet.width + k * (cell.w + gap)),
          );
      });
    });
    writeFileSync(file, encodePng(sheet));
  }
}

/** A part of a picture, made to fit a cell; never enlarged. */
function scaled(picture: Raster, rect: Rect): Raster {
  const by = Math.max(1, rect.w / cell.w, rect.h / cell.h);
  const out = makeRaster(Math.floor(rect.w / by), Math.floor(rect.h / by), 4, 8);
  for (let y = 0; y < out.height; y++)
    for (let x = 0; x < out.width; x++) {
      const sum = [0, 0, 0, 0];
      let count = 0;
      for (let v = Math.floor(y * by); v < Math.max(Math.floor(y * by) + 1, (y + 1) * by - 1e-6); v++)
        for (let u = Math.floor(x * by); u < Math.max(Math.floor(x * by) + 1, (x + 1) * by - 1e-6); u++) {
          const p = 4 * ((rect.y + v) * picture.width + rect.x + u);
          for (let c = 0; c < 4; c++) sum[c] += picture.data[p + c];
          count++;
        }
      for (let c = 0; c < 4; c++) out.data[4 * (y * out.width + x) + c] = sum[c] / count;
    }
  return out;
}
