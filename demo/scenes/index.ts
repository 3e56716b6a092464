import type { Scene } from '../toolkit/scene';
import { courtyard } from './courtyard';
import { harvestDay } from './harvest-day';
import { millPond } from './mill-pond';
import { oldPrint } from './old-print';
import { orchardRow } from './orchard-row';
import { pressHouse } from './press-house';
import { studioJug } from './studio-jug';

/** All made-up photographs, in the order of the shelf. */
export const scenes: readonly Scene[] = [
  courtyard,
  orchardRow,
  studioJug,
  millPond,
  pressHouse,
  harvestDay,
  oldPrint,
];
