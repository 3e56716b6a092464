import type { Dice } from './random';

export type Vec = readonly [x: number, y: number, z: number];

/** Signed distance: negative inside. */
export type Solid = (x: number, y: number, z: number) => number;

/** A round cone between two points. */
export function capsule(a: Vec, b: Vec, ra: number, rb: number): Solid {
  const d = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const l2 = d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1e-9;
  return (x, y, z) => {
    const t = Math.min(1, Math.max(0, ((x - a[0]) * d[0] + (y - a[1]) * d[1] + (z - a[2]) * d[2]) / l2));
    return Math.hypot(x - a[0] - t * d[0], y - a[1] - t * d[1], z - a[2] - t * d[2]) - (ra + (rb - ra) * t);
  };
}

export function ellipsoid(c: Vec, r: Vec): Solid {
  return (x, y, z) => {
    const u = (x - c[0]) / r[0];
    const v = (y - c[1]) / r[1];
    const w = (z - c[2]) / r[2];
    const k0 = Math.hypot(u, v, w);
    const k1 = Math.hypot(u / r[0], v / r[1], w / r[2]) + 1e-6;
    return (k0 * (k0 - 1)) / k1;
  };
}

/** A union whose joins are rounded by k. */
export function blendSolids(k: number, ...solids: Solid[]): Solid {
  return (x, y, z) => {
    let m = solids[0](x, y, z);
    for (let i = 1; i < solids.length; i++) {
      const e = solids[i](x, y, z);
      const h = Math.max(k - Math.abs(m - e), 0) / k;
      m = Math.min(m, e) - h * h * k * 0.25;
    }
    return m;
  };
}

/** Smooth wavy noise in space, about −1…1. */
export function waves(scale: number, dice: Dice): Solid {
  const terms = Array.from({ length: 7 }, () => {
    const v = [dice.normal(), dice.normal(), dice.normal()];
    const k = (scale * dice.between(0.7, 1.4)) / Math.hypot(v[0], v[1], v[2]);
    return [v[0] * k, v[1] * k, v[2] * k, dice.between(0, 6.28)];
  });
  return (x, y, z) => terms.reduce((sum, [a, b, c, p]) => sum + Math.sin(a * x + b * y + c * z + p), 0) / 7;
}

export interface Mesh {
  readonly vertices: readonly Vec[];
  readonly normals?: readonly Vec[];
  readonly uv?: readonly (readonly [number, number])[];
  readonly faces: readonly (readonly [number, number, number])[];
}

/** The surface of a solid within a box (surface nets: Gibson 1998, doi:10.1007/BFb0056277). */
export function meshOf(solid: Solid, low: Vec, high: Vec, step: number): Mesh {
  const n = [0, 1, 2].map((d) => Math.ceil((high[d] - low[d]) / step) + 1);
  const at = (i: number, j: number, k: number) => (i * n[1] + j) * n[2] + k;
  const f = new Float32Array(n[0] * n[1] * n[2]);
  for (let i = 0; i < n[0]; i++)
    for (let j = 0; j < n[1]; j++)
      for (let k = 0; k < n[2]; k++)
        f[at(i, j, k)] = solid(low[0] + i * step, low[1] + j * step, low[2] + k * step);
  const cell = new Int32Array(f.length).fill(-1);
  const vertices: Vec[] = [];
  const normals: Vec[] = [];
  const steps = [at(1, 0, 0), at(0, 1, 0), at(0, 0, 1)];
  const corners = Array.from({ length: 8 }, (_, c) => [c & 1, (c >> 1) & 1, c >> 2]);
  for (let i = 0; i < n[0] - 1; i++)
    for (let j = 0; j < n[1] - 1; j++)
      for (let k = 0; k < n[2] - 1; k++) {
        const base = at(i, j, k);
        const sum = [0, 0, 0];
        let count = 0;
        for (const c of corners)
          for (let d = 0; d < 3; d++) {
            if (c[d]) continue;
            const p = base + c[0] * steps[0] + c[1] * steps[1] + c[2] * steps[2];
            const a = f[p];
            const b = f[p + steps[d]];
            if (a < 0 === b < 0) continue;
            for (let e = 0; e < 3; e++) sum[e] += c[e] + (e === d ? a / (a - b) : 0);
            count++;
          }
        if (!count) continue;
        cell[base] = vertices.length;
        const v: Vec = [
          low[0] + (i + sum[0] / count) * step,
          low[1] + (j + sum[1] / count) * step,
          low[2] + (k + sum[2] / count) * step,
        ];
        vertices.push(v);
        const h = step * 0.7;
        const g = [0, 1, 2].map((d) => {
          const p = [...v] as [number, number, number];
          const m = [...v] as [number, number, number];
          p[d] += h;
          m[d] -= h;
          return solid(...p) - solid(...m);
        });
        const l = Math.hypot(g[0], g[1], g[2]) || 1;
        normals.push([g[0] / l, g[1] / l, g[2] / l]);
      }
  const faces: [number, number, number][] = [];
  for (let i = 0; i < n[0] - 1; i++)
    for (let j = 0; j < n[1] - 1; j++)
      for (let k = 0; k < n[2] - 1; k++) {
        const p = at(i, j, k);
        const where = [i, j, k];
        for (let d = 0; d < 3; d++) {
          if (f[p] < 0 === f[p + steps[d]] < 0) continue;
          const [u, v] = [0, 1, 2].filter((e) => e !== d);
          if (where[u] === 0 || where[v] === 0) continue;
          const q = [cell[p], cell[p - steps[u]], cell[p - steps[u] - steps[v]], cell[p - steps[v]]];
          if (q.some((c) => c < 0)) continue;
          faces.push([q[0], q[1], q[2]], [q[0], q[2], q[3]]);
        }
      }
  return { vertices, normals, faces };
}

/** A surface given on a grid of parameters, row by row; normals from its differences. */
export function meshOfSurface(
  rows: number,
  columns: number,
  at: (v: number, u: number) => Vec,
  closed = false,
): Mesh {
  const vertices: Vec[] = [];
  const uv: [number, number][] = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      vertices.push(at(j / (rows - 1), i / (columns - 1)));
      uv.push([i / (columns - 1), j / (rows - 1)]);
    }
  const p = (j: number, i: number): Vec => {
    const c = closed ? (i + columns - 1) % (columns - 1) : Math.max(0, Math.min(columns - 1, i));
    return vertices[Math.max(0, Math.min(rows - 1, j)) * columns + c];
  };
  const normals: Vec[] = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const a = minus(p(j + 1, i), p(j - 1, i));
      const b = minus(p(j, i + 1), p(j, i - 1));
      normals.push(unit(cross(a, b)));
    }
  const faces: [number, number, number][] = [];
  for (let j = 0; j < rows - 1; j++)
    for (let i = 0; i < columns - 1; i++) {
      const a = j * columns + i;
      faces.push([a, a + columns, a + columns + 1], [a, a + columns + 1, a + 1]);
    }
  return { vertices, normals, uv, faces };
}

export const minus = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const plus = (a: Vec, b: Vec, k = 1): Vec => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const unit = (a: Vec): Vec => {
  const l = Math.hypot(a[0], a[1], a[2]) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

const number = (v: number, digits: number): string => Number(v.toFixed(digits)).toString();
export const vec = (v: readonly number[], digits = 5): string =>
  `<${v.map((c) => number(c, digits)).join(',')}>`;

/** A mesh as the renderer reads it. */
export function declareMesh(name: string, mesh: Mesh): string {
  const list = (items: readonly (readonly number[])[], digits: number) =>
    items.map((v) => vec(v, digits)).join(',');
  const parts = [`vertex_vectors{${mesh.vertices.length},${list(mesh.vertices, 5)}}`];
  if (mesh.normals) parts.push(`normal_vectors{${mesh.normals.length},${list(mesh.normals, 4)}}`);
  if (mesh.uv) parts.push(`uv_vectors{${mesh.uv.length},${list(mesh.uv, 5)}}`);
  parts.push(`face_indices{${mesh.faces.length},${list(mesh.faces, 0)}}`);
  return `#declare ${name}=mesh2{${parts.join('\n')}}\n`;
}
