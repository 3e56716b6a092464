import { smooth } from './grid';
import { blendSolids, capsule, declareMesh, ellipsoid, meshOf, type Solid, type Vec, waves } from './mesh';
import { makeDice } from './random';

/** How a figure stands: angles in radians, metres; it looks along +z and stands on y = 0. */
export interface Pose {
  readonly seed: number;
  /** Left and right: how far the foot is set forward. */
  readonly step: readonly [number, number];
  /** Left and right hand, from the body's middle. */
  readonly hands: readonly [Vec, Vec];
  readonly hat: 'cap' | 'straw' | 'none';
}

const gauss = (x: number, middle: number, width: number): number => Math.exp(-(((x - middle) / width) ** 2));

/** Meshes of a clothed figure: trousers, jacket, head, hair, hat, hands and boots, each under `prefix` plus its name.
 *  Clothes have folds where cloth bunches: knees, ankles, elbows, waist. */
export function figureMeshes(prefix: string, pose: Pose): string {
  const dice = makeDice(pose.seed);
  const put = (name: string, solid: Solid, low: Vec, high: Vec, step: number) =>
    declareMesh(prefix + name, meshOf(solid, low, high, step));
  return [
    put(
      'Trousers',
      trousers(pose, waves(9, dice), waves(22, dice)),
      [-0.34, 0.04, -0.5],
      [0.34, 1.08, 0.5],
      0.0085,
    ),
    put(
      'Jacket',
      jacket(pose, waves(8, dice), waves(20, dice)),
      [-0.62, 0.74, -0.55],
      [0.62, 1.62, 0.62],
      0.0095,
    ),
    put('Head', head(), [-0.16, 1.44, -0.18], [0.16, 1.86, 0.18], 0.006),
    put('Hair', hair(waves(60, dice), waves(140, dice)), [-0.16, 1.5, -0.18], [0.16, 1.86, 0.18], 0.006),
    pose.hat === 'none'
      ? ''
      : put('Hat', hat(pose.hat, waves(35, dice)), [-0.3, 1.62, -0.3], [0.3, 1.9, 0.3], 0.006),
    put('Hands', hands(pose), [-0.7, 0.6, -0.6], [0.7, 1.3, 0.7], 0.008),
    put('Boots', boots(pose), [-0.24, -0.02, -0.6], [0.24, 0.24, 0.62], 0.007),
  ].join('');
}

function legs(pose: Pose): { knee: Vec; ankle: Vec; hip: Vec }[] {
  return pose.step.map((s, i) => {
    const side = i === 0 ? -1 : 1;
    return {
      hip: [side * 0.095, 0.92, 0],
      knee: [side * 0.112, 0.5, s * 0.55 + Math.abs(s) * 0.2],
      ankle: [side * 0.122, 0.09, s],
    };
  });
}

function trousers(pose: Pose, warp: Solid, rough: Solid): Solid {
  const parts = legs(pose).map(({ hip, knee, ankle }) =>
    blendSolids(0.05, capsule(hip, knee, 0.098, 0.078), capsule(knee, ankle, 0.078, 0.075)),
  );
  const body = blendSolids(0.06, capsule([-0.05, 0.95, 0], [0.05, 0.95, 0], 0.145, 0.145), ...parts);
  return (x, y, z) => {
    const w = 4 * 0.8 * warp(x, y, z);
    const folds =
      Math.sin(y * 62 + x * 28 + w) * gauss(y, 0.5, 0.13) * 0.006 +
      Math.sin(y * 85 - x * 22 + 1.2 * w) * smooth(0.34, 0.1, y) * 0.009 +
      Math.sin(x * 80 + y * 30 + w) * gauss(y, 0.82, 0.1) * 0.004;
    return body(x, y, z) + folds + rough(x, y, z) * 0.006;
  };
}

function elbow(side: number, hand: Vec): Vec {
  const shoulder: Vec = [side * 0.2, 1.4, 0];
  const m = [0, 1, 2].map((d) => (shoulder[d] + hand[d]) / 2) as unknown as Vec;
  return [m[0] + side * 0.05, m[1] - 0.02, m[2] - 0.06];
}

function jacket(pose: Pose, warp: Solid, rough: Solid): Solid {
  const torso = blendSolids(
    0.14,
    ellipsoid([0, 1.3, 0], [0.205, 0.2, 0.135]),
    ellipsoid([0, 1.05, 0], [0.178, 0.2, 0.135]),
    capsule([-0.14, 1.425, 0], [0.14, 1.425, 0], 0.068, 0.068),
    capsule([0, 0.93, 0], [0, 0.9, 0], 0.165, 0.17),
  );
  const hem: Solid = (x, y, z) => Math.max(torso(x, y, z), 0.84 - y + 0.008 * Math.sin(x * 18));
  const arms = pose.hands.map((hand, i) => {
    const side = i === 0 ? -1 : 1;
    const e = elbow(side, hand);
    return blendSolids(0.04, capsule([side * 0.2, 1.4, 0], e, 0.072, 0.057), capsule(e, hand, 0.058, 0.047));
  });
  const whole = blendSolids(
    0.02,
    blendSolids(0.035, hem, ...arms),
    capsule([-0.03, 1.5, 0], [0.03, 1.5, 0], 0.072, 0.072),
  );
  return (x, y, z) => {
    const w = 5 * warp(x, y, z);
    const arm = smooth(0.17, 0.23, Math.abs(x));
    const folds =
      arm * Math.sin(y * 75 + w + x * 20) * gauss(y, 1.14, 0.12) * 0.007 +
      (1 - arm) *
        (Math.sin(y * 48 - Math.abs(x) * 46 + w) * gauss(y, 1.02, 0.1) * 0.0075 +
          Math.sin(Math.abs(x) * 55 - y * 38 + w) *
            gauss(y, 1.27, 0.13) *
            0.0055 *
            smooth(0.02, 0.1, Math.abs(x)));
    return whole(x, y, z) + folds + rough(x, y, z) * 0.006;
  };
}

function head(): Solid {
  const skull = blendSolids(
    0.04,
    ellipsoid([0, 1.665, 0.01], [0.077, 0.108, 0.096]),
    capsule([0, 1.5, 0], [0, 1.6, 0], 0.056, 0.054),
  );
  return blendSolids(
    0.012,
    skull,
    ellipsoid([-0.081, 1.65, 0.01], [0.012, 0.03, 0.02]),
    ellipsoid([0.081, 1.65, 0.01], [0.012, 0.03, 0.02]),
    ellipsoid([0, 1.65, 0.105], [0.016, 0.026, 0.02]),
  );
}

function hair(a: Solid, b: Solid): Solid {
  const cap = ellipsoid([0, 1.672, 0], [0.086, 0.112, 0.104]);
  return (x, y, z) => {
    const behind = Math.max(1.6 - y, z - 0.02);
    const above = Math.max(1.714 - y, z - 0.088);
    return Math.max(cap(x, y, z), Math.min(behind, above)) + a(x, y, z) * 0.006 + b(x, y, z) * 0.002;
  };
}

function hat(kind: 'cap' | 'straw', rough: Solid): Solid {
  const crown = ellipsoid([0, 1.725, 0], kind === 'cap' ? [0.098, 0.075, 0.118] : [0.1, 0.1, 0.115]);
  const brim =
    kind === 'cap'
      ? ellipsoid([0, 1.715, 0.1], [0.08, 0.012, 0.07])
      : ellipsoid([0, 1.715, 0], [0.2, 0.012, 0.21]);
  const top: Solid = (x, y, z) => Math.max(crown(x, y, z), 1.705 - y);
  const whole = blendSolids(0.03, top, brim);
  return (x, y, z) => whole(x, y, z) + rough(x, y, z) * 0.003;
}

function hands(pose: Pose): Solid {
  const parts = pose.hands.map((h, i) => {
    const side = i === 0 ? -1 : 1;
    const e = elbow(side, h);
    const l = Math.hypot(h[0] - e[0], h[1] - e[1], h[2] - e[2]);
    const on = (k: number): Vec => [
      h[0] + ((h[0] - e[0]) / l) * k,
      h[1] + ((h[1] - e[1]) / l) * k,
      h[2] + ((h[2] - e[2]) / l) * k,
    ];
    return blendSolids(
      0.02,
      capsule(on(0), on(0.07), 0.032, 0.036),
      capsule(on(0.08), on(0.15), 0.024, 0.014),
    );
  });
  return (x, y, z) => Math.min(parts[0](x, y, z), parts[1](x, y, z));
}

function boots(pose: Pose): Solid {
  const parts = legs(pose).map(({ ankle: [x, , z] }) => {
    const lift = z < 0 ? 0.02 : 0;
    return blendSolids(
      0.05,
      ellipsoid([x, 0.05 + lift, z + 0.07], [0.05, 0.055, 0.14]),
      capsule([x, 0.15 + lift, z - 0.01], [x, 0.07 + lift, z], 0.05, 0.05),
    );
  });
  return (x, y, z) => Math.max(Math.min(parts[0](x, y, z), parts[1](x, y, z)), -y);
}
