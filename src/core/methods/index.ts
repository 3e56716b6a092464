import type { MethodId } from '../job/types';
import { clone } from './clone';
import type { MethodDefinition } from './definition';
import { fill } from './fill';
import { heal } from './heal';
import { knit } from './knit';
import { paint } from './paint';
import { patch } from './patch';
import { tap } from './tap';

/** All methods, in the order in which they are offered. */
export const methods: Readonly<Record<MethodId, MethodDefinition>> = {
  tap,
  fill,
  clone,
  heal,
  patch,
  paint,
  knit,
};

export * from './definition';
export { fillInputOf, keepsDirections, reachLike } from './fill';
export { stopsFor } from './heal';
export { pickedPaint } from './paint';
export { aboutOf, type Placement, placementOf, sourceRect, takeSource } from './source';
export { sourcesFor } from './tap';
