/** Figures of this machine, as ratios where two things are compared in one run: `npm run bench [-- name …]`. */
import { benchFillHoles } from './fill-holes';
import { benchFillPatterns } from './fill-patterns';
import { benchFillQuality } from './fill-quality';
import { benchFillSize } from './fill-size';
import { benchHeal } from './heal';
import { benchKernels } from './kernels';
import { benchMarking } from './marking';
import { benchMemory } from './memory';
import { benchOpen } from './open';
import { benchSources } from './sources';
import { benchStroke } from './stroke';

const benches: Record<string, () => Promise<void>> = {
  kernels: benchKernels,
  heal: benchHeal,
  fill: benchFillQuality,
  'fill-holes': benchFillHoles,
  'fill-patterns': benchFillPatterns,
  'fill-size': benchFillSize,
  open: benchOpen,
  stroke: benchStroke,
  sources: benchSources,
  marking: benchMarking,
  memory: benchMemory,
};

const wanted = process.argv.slice(2).filter((a) => !a.startsWith('--'));
const unknown = wanted.filter((name) => !Object.hasOwn(benches, name));
if (unknown.length > 0) {
  console.error(`There is no ${unknown.join(', ')}. There are: ${Object.keys(benches).join(', ')}.`);
  process.exit(2);
}
for (const name of wanted.length > 0 ? wanted : Object.keys(benches)) await benches[name]();
