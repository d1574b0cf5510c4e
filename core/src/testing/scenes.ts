// Small scenes with known answers, for tests and benches.
import { plainKernel, type RayKernel } from '@plinket/kernel';
import type { Rectangle } from '../light/index.ts';
import type { Vec3 } from '../math/index.ts';
import type { SceneCamera, SceneGeometry, SceneLight } from '../scene/index.ts';
import { luminance } from '../photometry/index.ts';
import { isClear, material, type Material } from '../surface/index.ts';
import { Tracer } from '../trace/index.ts';

export const matt = (albedo: number, more: Partial<Material> = {}): Material =>
  material({ name: 'matt', base: [albedo, albedo, albedo], roughness: 1, ...more });

/** What a lux meter shows of red, green and blue. */
export const lux = (rgb: Vec3): number => luminance(...rgb);

/** Triangles of one material with normals from the triangles' own planes. */
export function geometryOf(triangles: [Vec3, Vec3, Vec3][], surface: Material): SceneGeometry {
  const positions = Float32Array.from(triangles.flat(2));
  const normals = new Float32Array(positions.length);
  triangles.forEach(([a, b, c], i) => {
    const u = [0, 1, 2].map((k) => b[k]! - a[k]!),
      v = [0, 1, 2].map((k) => c[k]! - a[k]!);
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    const l = Math.hypot(n[0]!, n[1]!, n[2]!);
    for (let k = 0; k < 9; k++) normals[i * 9 + k] = n[k % 3]! / l;
  });
  const indices = Uint32Array.from({ length: triangles.length * 3 }, (_, i) => i);
  const colours = new Float32Array(positions.length).fill(1),
    triangleMaterial = new Uint16Array(triangles.length),
    triangleObject = new Uint16Array(triangles.length);
  return {
    key: 'test',
    mesh: {
      positions,
      indices,
      clearFrom: isClear(surface) ? 0 : triangles.length,
      objects: triangleObject,
      shading: { normals, colours, triangleMaterial },
    },
    normals,
    colours,
    triangleMaterial,
    uvs: new Float32Array(0),
    triangleObject,
    objects: ['test'],
    materials: [surface],
  };
}

/** A sphere of the given fineness around the origin; `inward` turns its triangles to the inside. */
export function sphereTriangles(radius: number, steps: number, inward = false): [Vec3, Vec3, Vec3][] {
  const at = (i: number, j: number): Vec3 => {
    const t = (i / steps) * Math.PI,
      p = (j / steps) * 2 * Math.PI;
    return [radius * Math.sin(t) * Math.cos(p), radius * Math.cos(t), radius * Math.sin(t) * Math.sin(p)];
  };
  const out: [Vec3, Vec3, Vec3][] = [];
  for (let i = 0; i < steps; i++)
    for (let j = 0; j < steps; j++) {
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      out.push(inward ? [a, b, c] : [a, c, b], inward ? [a, c, d] : [a, d, c]);
    }
  return out;
}

/** Smooth normals for a sphere's triangles, pointing away from the centre. */
export function roundNormals(geometry: SceneGeometry): SceneGeometry {
  const { positions } = geometry.mesh;
  const normals = positions.map((v, i) => v / Math.hypot(...positions.subarray(i - (i % 3), i - (i % 3) + 3)));
  return { ...geometry, normals, mesh: { ...geometry.mesh, shading: { ...geometry.mesh.shading!, normals } } };
}

/** A square on the floor (y = 0), facing up. */
export const floorTriangles = (half: number): [Vec3, Vec3, Vec3][] => [
  [
    [-half, 0, half],
    [half, 0, half],
    [half, 0, -half],
  ],
  [
    [-half, 0, half],
    [half, 0, -half],
    [-half, 0, -half],
  ],
];

/** A rectangle over the floor that shines down. */
export const overhead = (width: number, depth: number, height: number, centre: [number, number] = [0, 0]): Rectangle => ({
  corner: [centre[0] - width / 2, height, centre[1] - depth / 2],
  ex: [width, 0, 0],
  ey: [0, 0, depth],
});

export const rectangleLight = (id: string, rectangle: Rectangle): SceneLight => ({
  id,
  key: JSON.stringify(rectangle),
  kind: 'rectangle',
  rectangle,
});
export const dome: SceneLight = { id: 'dome', key: 'dome', kind: 'dome' };

/** A camera that looks from one point to another; `half` is half the frame's height at distance 1. */
export function cameraAt(origin: Vec3, target: Vec3, half = 0.3): SceneCamera {
  const d = [0, 1, 2].map((k) => target[k]! - origin[k]!);
  const l = Math.hypot(...d);
  const forward = d.map((v) => v / l) as Vec3;
  const side: Vec3 = Math.abs(forward[1]) > 0.99 ? [1, 0, 0] : [-forward[2], 0, forward[0]];
  const s = Math.hypot(...side);
  const right = side.map((v) => v / s) as Vec3;
  const up: Vec3 = [
    right[1] * forward[2] - right[2] * forward[1],
    right[2] * forward[0] - right[0] * forward[2],
    right[0] * forward[1] - right[1] * forward[0],
  ];
  return { key: 'test', origin, forward, right, up, halfHeight: half, aspect: 1 };
}

export const plainTracer = (geometry: SceneGeometry, kernel: RayKernel = plainKernel(geometry.mesh, { capacity: 4096 })): Tracer =>
  new Tracer(kernel, geometry);
