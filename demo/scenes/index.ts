import type { Scene } from '../toolkit/scene';
import { courtyard } from './courtyard';
import { orchardRow } from './orchard-row';
import { studioJug } from './studio-jug';

export const scenes: readonly Scene[] = [courtyard, orchardRow, studioJug];
