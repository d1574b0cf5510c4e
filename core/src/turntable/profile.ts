// What a turning figure sweeps: for every height, how far it reaches from its axis.
import type { SceneGeometry } from '../scene/index.ts';

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
 * The circles that bound all that turns: those on the convex hull of height against radius (Andrew's monotone chain, 1979). Perspective takes a convex
 * body to a convex figure, so what keeps these within a frame keeps everything within it.
 */
export function sweptCircles(points: Float32Array, [ax, az]: readonly [number, number]): Circle[] {
  const all: Circle[] = [];
  for (let i = 0; i < points.length; i += 3) all.push({ y: points[i + 1]!, r: Math.hypot(points[i]! - ax, points[i + 2]! - az) });
  all.sort((a, b) => a.y - b.y || b.r - a.r);
  const hull: Circle[] = [];
  for (const c of all) {
    while (hull.length > 1) {
      const [a, b] = [hull[hull.length - 2]!, hull[hull.length - 1]!];
      // the middle one lies within when it does not stand out from the line between its neighbours
      if ((b.r - a.r) * (c.y - a.y) > (c.r - a.r) * (b.y - a.y)) break;
      hull.pop();
    }
    hull.push(c);
  }
  return hull;
}
