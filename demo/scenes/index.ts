import type { Scene } from '../toolkit/scene';
import { courtyard } from './courtyard';
import { orchardRow } from './orchard-row';

export const scenes: readonly Scene[] = [courtyard, orchardRow];
