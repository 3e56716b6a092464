import type { Mend, MethodId } from '../job/types';
import type { FloatImage, Rect } from '../raster';

/** A number that a method can be given. Panels and the schema are built from these. */
export interface ParameterDefinition {
  readonly key: string;
  readonly label: string;
  readonly unit: '%' | 'px' | '×' | '°' | '';
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly initial: number;
  /** Off at 0, on at 1. */
  readonly isSwitch?: boolean;
}

/** What a method may ask for while it computes a patch. Rectangles lie within the photo. */
export interface MethodContext {
  readonly bounds: Rect;
  /** What is computed changes at once again, while something is dragged or painted: near is enough. */
  readonly isPreview: boolean;
  /** The pixels below the mend, or of the photo, as the mend reads them. A fresh image that the caller may change. */
  read(rect: Rect): FloatImage;
  /** The same of some pixels of a rectangle, numbered row by row: four numbers each. For those of a line: all round them is not read. */
  readAlong(rect: Rect, pixels: Int32Array): Float32Array;
  /** 0 = must not be drawn from, by the zones of the mend and the job. Null: everything may. */
  mayDraw(rect: Rect): Uint8Array | null;
  /** The box of the allow zone that says where sources are; null: there is none. */
  readonly allowedWithin: Rect | null;
  /** Coverage 0…1 of the mend's area. Not to be changed, nor kept while the mend is painted: its memory is used again. */
  coverage(rect: Rect): Float32Array;
  /** 1 where something is still to go that will be mended later; null: nowhere. */
  pending(rect: Rect): Uint8Array | null;
  /** 1 in the avoid zones of the mend and the job; null: there are none. */
  avoided(rect: Rect): Uint8Array | null;
  /** The kept pixels of the chosen try, where the method has tries and they are there. */
  chosen(rect: Rect): FloatImage | null;
}

/** Colour for a rectangle, and how much of it is laid on. */
export interface Patch {
  readonly image: FloatImage;
  /** image.rect in size. */
  readonly coverage: Float32Array;
}

/** A mend of scope 'whole' while its stroke is painted: what the newest dab touches is computed, and what lies near it;
 *  the rest is left as it was shown. Near is enough; when the stroke ends, the method evaluates the whole. */
export interface UnderBrush {
  /** Takes in that the mend's coverage rose within a rectangle, or a pixel beside it. What the context reads is good for this call alone. */
  take(mend: Mend, part: Rect, context: MethodContext): void;
  /** Once all has been taken in. @param changed  where coverage rose. @returns what is to be shown anew; may overlap */
  spread(changed: readonly Rect[]): readonly Rect[];
  /** Brings all of it up to date. @returns what is to be shown anew; may overlap */
  settle(): readonly Rect[];
  /** The patch within a part of the affected rectangle, as it is now; it may lie in what the context read. */
  patch(mend: Mend, output: Rect, context: MethodContext): Patch;
}

export interface MethodDefinition {
  readonly id: MethodId;
  /** Raised when the same parameters would give other pixels. */
  readonly version: number;
  readonly title: string;
  /** One line that says what happens to the picture. */
  readonly says: string;
  readonly parameters: readonly ParameterDefinition[];
  /** 'tile': any part of the patch can be computed alone. 'whole': the patch is computed in one piece.
   *  'kept': computed when asked, kept beside the job, never recomputed by itself. */
  readonly scope: 'tile' | 'whole' | 'kept';
  /** Where the scope is 'whole': the side in pixels, whole tiles, of the squares that this mend's patch can be computed in all the
   *  same; null: it cannot. */
  partSide?(mend: Mend): number | null;
  readonly needsSource: boolean;
  /** Which pixels it reads to compute its patch for `output`. @param allowedWithin  as the context says */
  requiredInput(mend: Mend, output: Rect, bounds: Rect, allowedWithin: Rect | null): Rect[];
  /** Which pixels it may change. */
  affectedOutput(mend: Mend, bounds: Rect): Rect;
  /** The patch for `output`, a part of the affected rectangle (all of it unless it is computed in parts). */
  evaluate(mend: Mend, output: Rect, context: MethodContext): Patch;
  /** For a stroke that begins. Null when this mend has to be evaluated as a whole even then. */
  underBrush?(mend: Mend): UnderBrush | null;
}

/** A parameter's value, or its initial one where the mend has none. */
export function parameterOf(mend: Mend, parameter: ParameterDefinition): number {
  return mend.params[parameter.key] ?? parameter.initial;
}
