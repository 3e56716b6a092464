import type { MethodDefinition } from '../definition';
import { fitted } from '../heal';

/** A whole region laid over another: heal's computation, made by dragging the region to where it should come from. */
export const patch: MethodDefinition = {
  ...fitted,
  id: 'patch',
  title: 'Patch',
  says: 'Covers a region with another one that you drag it to, and fits texture and tone.',
};
