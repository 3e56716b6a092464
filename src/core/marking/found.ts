import type { Mask } from '../area';

/** Something found on the photo, as pixels: what is marked has 255. */
export interface Found {
  readonly mask: Mask;
  /** Its place on the photo, and the size at which it lies there: larger than the mask's where it was found on a smaller picture. */
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}
