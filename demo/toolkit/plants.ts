import { cross, declareMesh, type Mesh, plus, unit, type Vec, vec } from './mesh';
import { type Dice, makeDice } from './random';

/** A square of grass: blades as tapered strips of three segments, gathered in tufts. */
export function grassPatch(name: string, seed: number, blades: number, heightM: number, sideM = 0.7): string {
  const dice = makeDice(seed);
  const tufts = Array.from({ length: 24 }, () => [
    dice.between(-sideM / 2, sideM / 2),
    dice.between(-sideM / 2, sideM / 2),
  ]);
  const vertices: Vec[] = [];
  const faces: [number, number, number][] = [];
  for (let i = 0; i < blades; i++) {
    const tuft = dice.pick(tufts);
    const inTuft = dice.next() < 0.55;
    const x = inTuft ? tuft[0] + dice.normal(0, 0.035) : dice.between(-sideM / 2, sideM / 2);
    const z = inTuft ? tuft[1] + dice.normal(0, 0.035) : dice.between(-sideM / 2, sideM / 2);
    const high = heightM * gammaSix(dice);
    const turn = dice.between(0, 2 * Math.PI);
    const bend = high * dice.between(0.15, 0.95) * 0.9;
    const wide = 0.0042 * dice.between(0.6, 1.4);
    const face = turn + Math.PI / 2 + dice.normal(0, 0.4);
    const base = vertices.length;
    for (const t of [0, 0.35, 0.7, 1]) {
      const c: Vec = [
        x + Math.cos(turn) * bend * t * t,
        high * (t - 0.28 * t * t * (bend / high)),
        z + Math.sin(turn) * bend * t * t,
      ];
      const w = wide * (1 - 0.85 * t);
      vertices.push([c[0] - Math.cos(face) * w, c[1], c[2] - Math.sin(face) * w]);
      vertices.push([c[0] + Math.cos(face) * w, c[1], c[2] + Math.sin(face) * w]);
    }
    for (let k = 0; k < 3; k++) {
      const a = base + 2 * k;
      faces.push([a, a + 1, a + 3], [a, a + 3, a + 2]);
    }
  }
  return declareMesh(name, { vertices, faces });
}

/** A gamma distribution of shape 6 and mean 1. */
function gammaSix(dice: Dice): number {
  let sum = 0;
  for (let i = 0; i < 6; i++) sum -= Math.log(1 - dice.next());
  return sum / 6;
}

interface Branches {
  readonly segments: { readonly from: Vec; readonly to: Vec; readonly ra: number; readonly rb: number }[];
  readonly tips: Vec[];
}

function growTree(dice: Dice, heightM: number): Branches {
  const segments: Branches['segments'] = [];
  const tips: Vec[] = [];
  const any = (k: number): Vec => [dice.normal(0, k), dice.normal(0, k), dice.normal(0, k)];
  const grow = (start: Vec, heading: Vec, length: number, radius: number, level: number): void => {
    const count = level < 2 ? 5 : 3;
    let p = start;
    let d = heading;
    let r = radius;
    for (let i = 0; i < count; i++) {
      d = unit(plus(plus(d, any(level ? 0.14 : 0.06)), [0, level < 3 ? 0.05 : -0.05, 0]));
      const q = plus(p, d, length / count);
      const thinner = r * (level < 2 ? 0.9 : 0.82);
      segments.push({ from: p, to: q, ra: r, rb: thinner });
      p = q;
      r = thinner;
      if (level >= 3) tips.push(p);
      if (level >= 1 && level < 4 && dice.next() < 0.55) {
        const side = unit(cross(d, any(1)));
        grow(p, plus([d[0] * 0.55, d[1] * 0.55, d[2] * 0.55], side, 0.8), length * 0.6, r * 0.55, level + 1);
      }
    }
    if (level >= 4) return;
    const forks = [5, 3, 3, 2][level];
    const first = dice.between(0, 6.28);
    for (let i = 0; i < forks; i++) {
      const a = first + (i * 2 * Math.PI) / forks + dice.normal(0, 0.25);
      const side: Vec = [Math.cos(a), 0, Math.sin(a)];
      const next =
        level === 0
          ? plus([d[0] * 0.55, d[1] * 0.55, d[2] * 0.55], side, 0.85)
          : plus([d[0] * 0.75, d[1] * 0.75, d[2] * 0.75], plus(side, any(0.3)), 0.6);
      grow(
        p,
        unit(next),
        length * (level === 0 ? 0.95 : 0.68) * dice.between(0.8, 1.15),
        r * 0.62,
        level + 1,
      );
    }
  };
  grow([0, 0, 0], unit([0.04, 1, 0.02]), heightM * 0.38, heightM * 0.033, 0);
  return { segments, tips };
}

function leafMesh(dice: Dice, tips: readonly Vec[], perTip: number, sizeM: number): Mesh {
  const vertices: Vec[] = [];
  const faces: [number, number, number][] = [];
  for (const tip of tips)
    for (let k = 0; k < perTip; k++) {
      const c = plus(tip, [dice.normal(0, 0.085), dice.normal(0, 0.085), dice.normal(0, 0.085)]);
      const along = unit([dice.normal(), dice.normal() - 0.35, dice.normal()]);
      const face: Vec = [dice.normal(0, 0.6), dice.normal(0, 0.6) + 0.9, dice.normal(0, 0.6)];
      const side = unit(cross(along, face));
      const up = cross(side, along);
      const long = sizeM * dice.between(0.6, 1.25);
      const wide = long * dice.between(0.24, 0.34);
      const base = vertices.length;
      const half = plus(c, along, long * 0.5);
      vertices.push(
        c,
        plus(plus(half, side, wide), up, wide * 0.35),
        plus(c, along, long),
        plus(plus(half, side, -wide), up, wide * 0.35),
        half,
      );
      faces.push(
        [base, base + 1, base + 4],
        [base + 1, base + 2, base + 4],
        [base, base + 4, base + 3],
        [base + 4, base + 2, base + 3],
      );
    }
  return { vertices, faces };
}

/** An apple tree: `<name>Wood`, `<name>LeavesA`, `<name>LeavesB` and `<name>Fruit`, for {@link treeObject}. */
export function treeMeshes(name: string, seed: number, leaves = 17000, heightM = 3.5): string {
  const dice = makeDice(seed);
  const { segments, tips } = growTree(dice, heightM);
  const parts: string[] = [`#declare ${name}Wood=union{`];
  for (const { from, to, ra, rb } of segments) {
    if (ra > 0.004) parts.push(`cone{${vec(from, 3)},${ra.toFixed(4)},${vec(to, 3)},${rb.toFixed(4)}}`);
    if (ra > 0.02) parts.push(`sphere{${vec(to, 3)},${rb.toFixed(4)}}`);
  }
  parts.push('}\n');
  const perTip = Math.max(1, Math.round(leaves / tips.length / 2));
  parts.push(declareMesh(`${name}LeavesA`, leafMesh(dice, tips, perTip, 0.08)));
  parts.push(declareMesh(`${name}LeavesB`, leafMesh(dice, tips, perTip, 0.075)));
  parts.push(`#declare ${name}Fruit=union{`);
  for (let i = 0; i < 90; i++) {
    const p = plus(dice.pick(tips), [
      dice.normal(0, 0.05),
      dice.normal(0, 0.05) - 0.06,
      dice.normal(0, 0.05),
    ]);
    parts.push(`sphere{${vec(p, 3)},${dice.between(0.03, 0.038).toFixed(3)}}`);
  }
  parts.push('}\n');
  return parts.join('');
}

/** Renderer text that dresses a tree made by {@link treeMeshes}; declare it once, then place it often. */
export const treeObject = (name: string): string => `#declare ${name}=union{
 object{${name}Wood texture{pigment{granite color_map{[0 rgb <.16,.13,.10>][.5 rgb <.26,.23,.19>][1 rgb <.40,.41,.33>]} scale <.10,.4,.10>} normal{granite .8 scale <.05,.2,.05>} finish{diffuse .8}}}
 object{${name}LeavesA texture{pigment{bozo color_map{[0 rgb <.09,.155,.03>][.5 rgb <.12,.19,.04>][1 rgb <.16,.20,.05>]} scale .3} finish{diffuse .60,.40 specular .22 roughness .05}}}
 object{${name}LeavesB texture{pigment{bozo color_map{[0 rgb <.13,.20,.045>][.6 rgb <.17,.225,.055>][1 rgb <.25,.24,.07>]} scale .25} finish{diffuse .60,.40 specular .18 roughness .06}}}
 object{${name}Fruit texture{pigment{bozo color_map{[0 rgb <.50,.07,.04>][.6 rgb <.58,.13,.05>][1 rgb <.60,.45,.12>]} scale .05} finish{specular .3 roughness .03}}}}
`;

/** Three kinds of grass, as `Turf0`, `Turf1`, `Turf2`, each of short, middle and dry long blades. */
export function turfMeshes(seed: number): string {
  const parts: string[] = [];
  for (let k = 0; k < 3; k++) {
    parts.push(grassPatch(`Blades${k}a`, seed + 10 * k, 700, 0.085));
    parts.push(grassPatch(`Blades${k}b`, seed + 10 * k + 1, 420, 0.12));
    parts.push(grassPatch(`Blades${k}c`, seed + 10 * k + 2, 110, 0.17));
    const skin = (colour: string) =>
      `texture{pigment{rgb ${colour}} finish{diffuse .62,.42 specular .10 roughness .12}}`;
    parts.push(
      `#declare Turf${k}=union{object{Blades${k}a ${skin('<.19,.27,.045>')}} object{Blades${k}b ${skin('<.26,.32,.07>')}} object{Blades${k}c ${skin('<.48,.43,.20>')}}}\n`,
    );
  }
  return parts.join('');
}

/** Places turf over a wedge of ground in front of a camera that looks along +z from z = near. */
export function layTurf(
  seed: number,
  near: number,
  far: number,
  halfWidth: (z: number) => number,
  step = 0.42,
  keep: (x: number, z: number) => number = () => 1,
): string {
  const dice = makeDice(seed);
  const parts: string[] = [];
  for (let z = near; z < far; ) {
    const here = step + Math.max(0, z) * 0.03;
    for (let x = -halfWidth(z); x < halfWidth(z); x += here) {
      const px = x + 0.3 * (dice.next() - 0.5);
      const pz = z + 0.3 * (dice.next() - 0.5);
      const tall = keep(px, pz) * (0.7 + 0.8 * dice.next());
      const k = dice.below(3);
      const turn = 360 * dice.next();
      if (tall < 0.12) continue;
      const wide = 1 + Math.max(0, z) * 0.05;
      parts.push(
        `object{Turf${k} rotate y*${turn.toFixed(0)} scale <${wide.toFixed(2)},${tall.toFixed(2)},${wide.toFixed(2)}> translate <${px.toFixed(2)},-.025,${pz.toFixed(2)}>}`,
      );
    }
    z += here;
  }
  return parts.join('\n');
}
