import type { Scene } from '../toolkit/scene';
import { courtyard } from './courtyard';

export const scenes: readonly Scene[] = [courtyard];
