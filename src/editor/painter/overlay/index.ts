import type { Camera, Size } from '../../viewport/camera';
import { MarkedOverlay } from './marked';
import { Pen } from './pen';
import { SourceOverlay } from './sources';
import { SteeringOverlay } from './steering';

/** Draws over the photo, in screen pixels; document paths are brought there by the camera's transform. */
export class Overlay {
  readonly pen: Pen;
  readonly marked: MarkedOverlay;
  readonly sources: SourceOverlay;
  readonly steering: SteeringOverlay;

  constructor(context: CanvasRenderingContext2D, camera: Camera, view: Size, ratio: number) {
    this.pen = new Pen(context, camera, view, ratio);
    this.marked = new MarkedOverlay(this.pen);
    this.sources = new SourceOverlay(this.pen);
    this.steering = new SteeringOverlay(this.pen);
  }
}
