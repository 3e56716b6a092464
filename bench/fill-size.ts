import type { Raster } from '../src/core/raster';
import { areaOfShapes, boxShape, jobOf, layerOf, mendOf } from '../src/core/testing/jobs';
import { Engine } from '../src/runtime/engine/engine';
import { runFill } from '../src/runtime/pool/fill-job';
import { texture } from './photos';
import { aimed, headline, line, spreadOf, timed, told } from './report';

/** A fill costs what its hole costs, whatever the photo. */
export async function benchFillSize(): Promise<void> {
  headline('Fill: cost by photo and by hole, one core');
  const small = texture(1200, 833);
  const large = texture(6000, 4000);
  const fill = async (photo: Raster, side: number, runs = 9) => {
    const mend = mendOf('fill', areaOfShapes([boxShape(420, 330, side, side)]), null, {
      tries: [{ id: 't', seed: 1 }],
      chosenTry: 't',
    });
    const engine = new Engine(photo, 'photo');
    engine.setJob(jobOf(photo, [layerOf([mend])]));
    const spread = spreadOf(
      await timed(runs, () => {
        return runFill({ input: engine.fillInput(mend, 't').input, depth: 8 });
      }),
    );
    return spread;
  };
  const one = await fill(small, 128);
  const many = await fill(large, 128);
  const fourfold = await fill(large, 256);
  line('128 px hole, 1 megapixel', told(one));
  line('128 px hole, 24 megapixels', told(many));
  line('256 px hole, 24 megapixels', told(fourfold));
  const huge = await fill(large, 1000, 1);
  line(
    '1000 px hole, 24 megapixels',
    `${told(huge)}, ${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB at most`,
  );
  aimed('24 megapixels over 1', many.median / one.median, 1.3);
  aimed('4× the area', fourfold.median / many.median, 5);
  aimed('seconds for 1000 × 1000', huge.median / 1000, 20);
}
