import { beforeAll, describe, expect, test } from 'vitest';
import { keptOut, measureSmears, type Smears, smearScenes, summed } from './heals/smear';

describe('stop lines of heals on the demo photographs', () => {
  let things: Smears;
  let plain: Smears;

  beforeAll(async () => {
    const [beside, elsewhere]: Smears[][] = [[], []];
    for (const scene of Object.keys(smearScenes)) {
      const smears = await measureSmears(scene);
      if (process.env.TELL) console.log(scene, smears);
      beside.push(smears.besideThings);
      elsewhere.push(smears.elsewhere);
    }
    things = summed(beside);
    plain = summed(elsewhere);
    if (process.env.TELL) console.log(things, plain);
  }, 300_000);

  test('keep out most of what would smear in from known things', () => {
    if (process.env.TELL) console.log(keptOut(things, things.offered), keptOut(things, things.asked));
    expect(things.count).toBe(90);
    expect(keptOut(things, things.offered)).toBeGreaterThan(0.6);
    expect(keptOut(things, things.asked)).toBeGreaterThan(0.7);
  });

  test('seldom make a heal worse, and are seldom offered where nothing needs them', () => {
    expect(things.offered.harm).toBeLessThan(0.1 * (things.without - things.best));
    expect(plain.offered.harm).toBeLessThan(0.1 * plain.without);
    expect(plain.offered.count).toBeLessThan(0.25 * plain.count);
  });
});
