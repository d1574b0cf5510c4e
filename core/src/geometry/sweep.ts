/** Triangles with smooth normals. */
export interface MeshData {
  positions: Float32Array;
  normals: Float32Array;
  indices: Uint32Array;
}

/** A curved backdrop, metres: floor in front of and behind the centre, wall height, fillet radius, height of the floor. */
export interface SweepShape {
  width: number;
  front: number;
  back: number;
  height: number;
  fillet: number;
  floor: number;
}

/**
 * A floor that turns up into a wall through one quarter circle: profile along −Z, drawn out along X. The floor's top
 * side and the wall's front face the subject, which stands at the origin of `centre`.
 */
export function buildSweep(sweep: SweepShape, centre: [number, number] = [0, 0]): MeshData {
  const { width, front, back, height, floor } = sweep;
  const r = Math.min(sweep.fillet, height, back + front);
  // profile points: z, y, and the normal's z and y
  const profile: [number, number, number, number][] = [[front, 0, 0, 1]];
  const steps = r > 0 ? 48 : 0;
  for (let i = 0; i <= steps; i++) {
    const a = steps ? ((i / steps) * Math.PI) / 2 : 0;
    profile.push([-back + r - r * Math.sin(a), r - r * Math.cos(a), Math.sin(a), Math.cos(a)]);
  }
  if (r === 0) profile.push([-back, 0, 1, 0]);
  profile.push([-back, height, 1, 0]);
  const n = profile.length;
  const positions = new Float32Array(n * 6),
    normals = new Float32Array(n * 6),
    indices = new Uint32Array((n - 1) * 6);
  profile.forEach(([z, y, nz, ny], i) => {
    for (let side = 0; side < 2; side++) {
      positions.set([centre[0] + (side ? width / 2 : -width / 2), floor + y, centre[1] + z], (i * 2 + side) * 3);
      normals.set([0, ny, nz], (i * 2 + side) * 3);
    }
    if (i + 1 < n) indices.set([i * 2, i * 2 + 1, i * 2 + 3, i * 2, i * 2 + 3, i * 2 + 2], i * 6);
  });
  return { positions, normals, indices };
}
