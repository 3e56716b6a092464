import { array, lazy, number, object, string } from 'yup';
import { type Area, type Mask, type Shape, type ShapeOp, shapeOps, trimMask } from '../area';
import { InputError } from '../errors';
import { methods } from '../methods';
import { areaParts, checkMend, checkWith, farPx, knownMethod, mendParts, shapeOneOf, shapes } from './schema';
import { type Job, type Layer, type Mend, type MethodId, noZones, type PhotoFacts } from './types';

/** Mends as data, without the photo, to be applied by script. docs/headless.md tells the format. */
export interface Sheet {
  readonly mends: readonly SheetMend[];
}

/** A mend as a script writes it: only method and area are needed. Areas may name mask pictures by file. */
export interface SheetMend
  extends Partial<Omit<Mend, 'id' | 'area' | 'pending' | 'tries' | 'chosenTry' | 'method'>> {
  readonly method: MethodId;
  readonly area: SheetArea;
  readonly pending?: SheetArea | null;
  /** For methods with a choice in them: whole number 0…2³²−1, 1 when absent. */
  readonly seed?: number;
}

type SheetArea = Omit<Area, 'shapes' | 'guard'> & { readonly shapes: readonly (Shape | MaskFileShape)[] };

export interface MaskFileShape {
  readonly kind: 'mask';
  readonly op: ShapeOp;
  readonly x: number;
  readonly y: number;
  readonly file: string;
}

const formatName = 'vine-needle-sheet';

const maskFile = object({
  kind: string().oneOf(['mask']).required(),
  op: string().oneOf(shapeOps).default('add'),
  x: number().min(-farPx).max(farPx).default(0),
  y: number().min(-farPx).max(farPx).default(0),
  file: string().required().max(1000),
}).noUnknown();

const sheetArea = object({
  shapes: array(shapeOneOf({ ...shapes, mask: maskFile }))
    .required()
    .min(1)
    .max(10_000),
  ...areaParts,
}).noUnknown();

const sheetMend = lazy((value: unknown) =>
  object({
    ...mendParts(knownMethod(value), true),
    name: string().max(200),
    area: sheetArea.required(),
    pending: sheetArea.nullable().default(null),
    seed: number().integer().min(0).max(4294967295).default(1),
  }).noUnknown(),
);

const sheetSchema = object({
  format: string().oneOf([formatName]).required(),
  version: number().oneOf([1]).required(),
  mends: array(sheetMend).required().max(100_000),
}).noUnknown();

/** A sheet from a file. @throws InputError `schema` that names the place and what was expected */
export const checkSheet = (value: unknown): Sheet =>
  checkWith<Sheet>(sheetSchema as never, value, 'This sheet');

/** The job that a sheet makes of a photo: one layer, ids counted from 1, so that the same sheet gives the same job.
 *  @param maskOf  finds the picture of a mask file
 *  @throws InputError `no-source` when clone or heal lacks one, and whatever `maskOf` throws */
export function jobOfSheet(
  sheet: Sheet,
  photo: PhotoFacts,
  maskOf: (file: string) => Mask,
): { job: Job; masks: Map<string, Mask> } {
  const masks = new Map<string, Mask>();
  const trimmed = new Map<string, { maskId: string; x: number; y: number }>();
  const shapeOf = (shape: Shape | MaskFileShape): Shape => {
    if (!('file' in shape)) return shape;
    const { file, ...rest } = shape;
    let known = trimmed.get(file);
    if (!known) {
      const { mask, x, y } = trimMask(maskOf(file));
      known = { maskId: `mask-${trimmed.size + 1}`, x, y };
      trimmed.set(file, known);
      masks.set(known.maskId, mask);
    }
    const { maskId, x, y } = known;
    const { w, h } = masks.get(maskId)!;
    return { ...rest, x: shape.x + x, y: shape.y + y, w, h, maskId };
  };
  const areaOf = (area: SheetArea): Area => ({ ...area, shapes: area.shapes.map(shapeOf) });
  const mends = sheet.mends.map((given, i) => {
    const { seed, area, pending, ...rest } = given;
    const definition = methods[given.method];
    if (definition.needsSource && !given.source)
      throw new InputError('no-source', `This sheet: mends[${i}] needs a source, as ${given.method} does.`);
    const tryId = `try-${i + 1}`;
    const tries = definition.scope === 'kept' ? [{ id: tryId, seed: seed ?? 1 }] : [];
    return checkMend(
      {
        ...rest,
        id: `mend-${i + 1}`,
        name: given.name ?? `${definition.title} ${i + 1}`,
        area: areaOf(area),
        pending: pending ? areaOf(pending) : null,
        tries,
        chosenTry: tries.length > 0 ? tryId : null,
      },
      `This sheet: mends[${i}]`,
    );
  });
  const layer: Layer = { id: 'layer-1', name: 'Layer 1', visible: true, opacity: 1, blend: 'normal', mends };
  return {
    job: {
      id: 'job-1',
      title: photo.name.replace(/\.[^.]+$/, '') || 'Photo',
      photo,
      layers: [layer],
      zones: noZones,
      areas: [],
    },
    masks,
  };
}
