import type { MethodId } from '../job/types';
import { clone } from './clone';
import type { MethodDefinition } from './definition';
import { fill } from './fill';
import { heal } from './heal';
import { tap } from './tap';

/** All methods, in the order in which they are offered. */
export const methods: Readonly<Record<MethodId, MethodDefinition>> = { tap, fill, clone, heal };

export * from './definition';
export { fillInputOf, reachLike } from './fill';
export { sourcesFor } from './tap';
