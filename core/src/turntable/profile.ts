// What a turning figure sweeps: for every height, how far it reaches from its axis.
import type { SceneGeometry } from '../scene/index.ts';
import { hull, type Point } from '../staging/index.ts';

/** x y z of all vertices of figures that triangles use. */
export function figurePoints({ mesh, triangleObject, objects }: SceneGeometry): Float32Array {
  const isFigure = objects.map((o) => o.startsWith('subjects/'));
  const used = new Uint8Array(mesh.positions.length / 3);
  let count = 0;
  for (let t = 0; t < triangleObject.length; t++) {
    if (!isFigure[triangleObject[t]!]) continue;
    for (let k = 0; k < 3; k++) {
      const v = mesh.indices[t * 3 + k]!;
      if (!used[v]) count++;
      used[v] = 1;
    }
  }
  const out = new Float32Array(count * 3);
  for (let v = 0, o = 0; v < used.length; v++) {
    if (!used[v]) continue;
    out.set(mesh.positions.subarray(v * 3, v * 3 + 3), o);
    o += 3;
  }
  return out;
}

/** A circle that a point goes round: its height and radius, metres. */
export interface Circle {
  y: number;
  r: number;
}

/**
 * The circles that bound all that turns: those on the convex hull of radius and height. Perspective takes a convex body to a convex figure, so what keeps
 * these within a frame keeps everything within it.
 */
export function sweptCircles(points: Float32Array, [ax, az]: readonly [number, number]): Circle[] {
  const all: Point[] = [];
  for (let i = 0; i < points.length; i += 3) all.push([Math.hypot(points[i]! - ax, points[i + 2]! - az), points[i + 1]!]);
  return all.length ? hull(all).map(([r, y]) => ({ y, r })) : [];
}
