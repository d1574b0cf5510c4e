import { add, scale, sub, type Vec3 } from '../math/index.ts';
import { buildSweep, TONE_ROWS, type MeshData, type SweepShape } from './sweep.ts';

/** A stage to measure; see the setup's schema for what each measure is. */
export interface StageMeasures extends SweepShape {
  kind: 'sweep' | 'corner' | 'flat' | 'room' | 'floor' | 'none';
  colour?: Vec3;
  gradient?: { colour: Vec3; from: number; to: number } | undefined;
}

/** A part of a stage: its backdrop, or a room's front half. */
export type StageMesh = MeshData & { part: 'backdrop' | 'front'; colours?: Float32Array };

/** Quads side by side along a line of points and normals (x, z, nx, nz), from the floor up to a height, in rows. */
function wall(line: [number, number, number, number][], floor: number, height: number, rows: number): MeshData {
  const n = line.length,
    column = rows + 1;
  const positions = new Float32Array(n * column * 3),
    normals = new Float32Array(n * column * 3),
    indices: number[] = [];
  line.forEach(([x, z, nx, nz], i) => {
    for (let up = 0; up < column; up++) {
      const o = i * column + up;
      positions.set([x, floor + (up / rows) * height, z], o * 3);
      normals.set([nx, 0, nz], o * 3);
      if (i + 1 < n && up < rows) indices.push(o, o + column, o + column + 1, o, o + column + 1, o + 1);
    }
  });
  return { positions, normals, indices: Uint32Array.from(indices) };
}

function level(width: number, front: number, back: number, y: number): MeshData {
  const w = width / 2;
  return {
    positions: Float32Array.from([-w, y, front, w, y, front, w, y, -back, -w, y, -back]),
    normals: Float32Array.from([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]),
    indices: Uint32Array.from([0, 1, 2, 0, 2, 3]),
  };
}

function joined(meshes: MeshData[]): MeshData {
  const size = (pick: (m: MeshData) => number) => meshes.reduce((n, m) => n + pick(m), 0);
  const positions = new Float32Array(size((m) => m.positions.length)),
    normals = new Float32Array(positions.length),
    indices = new Uint32Array(size((m) => m.indices.length));
  let v = 0,
    c = 0;
  for (const m of meshes) {
    positions.set(m.positions, v);
    normals.set(m.normals, v);
    m.indices.forEach((i, k) => (indices[c + k] = i + v / 3));
    v += m.positions.length;
    c += m.indices.length;
  }
  return { positions, normals, indices };
}

/**
 * The line of a corner seen from above, x z and the normal: two walls at right angles that meet behind the subject, rounded by
 * `fillet`, as far to the sides as `width`.
 */
export function cornerLine({ width, back, fillet }: Pick<StageMeasures, 'width' | 'back' | 'fillet'>): [number, number, number, number][] {
  const h = Math.SQRT1_2;
  const reach = width / 2,
    r = Math.min(fillet, reach * 0.9);
  // the walls' tangent points lie r from the corner along each wall; the circle's middle r·√2 before it
  const line: [number, number, number, number][] = [[-reach, -back + reach, h, h]];
  const steps = r > 0 ? 24 : 0;
  const middle = -back + r * Math.SQRT2;
  for (let i = 0; i <= steps; i++) {
    const a = steps ? -Math.PI / 4 + (i / steps) * (Math.PI / 2) : 0;
    const nx = -Math.sin(a),
      nz = Math.cos(a);
    if (steps) line.push([-nx * r, middle - nz * r, nx, nz]);
  }
  if (!steps) line.push([0, -back, h, h], [0, -back, -h, h]);
  line.push([reach, -back + reach, -h, h]);
  return line;
}

/** The line of a room seen from above: a rectangle around the subject with rounded corners, from its left front round to its right. */
export function roomLine({
  width,
  front,
  back,
  fillet,
}: Pick<StageMeasures, 'width' | 'front' | 'back' | 'fillet'>): [number, number, number, number][] {
  const w = width / 2,
    r = Math.max(0.01, Math.min(fillet, w, (front + back) / 2));
  const line: [number, number, number, number][] = [];
  // the middle of each corner's circle, and the angle from which it goes on: 0° to +X, 90° to +Z
  const corners: [number, number, number][] = [
    [w - r, front - r, 0],
    [-w + r, front - r, 90],
    [-w + r, -back + r, 180],
    [w - r, -back + r, 270],
  ];
  for (const [x, z, from] of corners)
    for (let i = 0; i <= 16; i++) {
      const a = ((from + (i / 16) * 90) * Math.PI) / 180,
        c = Math.cos(a),
        s = Math.sin(a);
      line.push([x + r * c, z + r * s, -c, -s]);
    }
  line.push(line[0]!);
  return line;
}

/** Cuts a closed line where z changes its sign: the part in front (z ≥ 0), and that behind. */
function halves(line: [number, number, number, number][]): {
  front: [number, number, number, number][][];
  back: [number, number, number, number][][];
} {
  const out = { front: [] as [number, number, number, number][][], back: [] as [number, number, number, number][][] };
  for (let i = 0; i + 1 < line.length; i++) {
    const a = line[i]!,
      b = line[i + 1]!;
    if (a[1] >= 0 === b[1] >= 0) {
      (a[1] >= 0 ? out.front : out.back).push([a, b]);
      continue;
    }
    const t = a[1] / (a[1] - b[1]);
    const cut = a.map((v, k) => v + (b[k]! - v) * t) as [number, number, number, number];
    (a[1] >= 0 ? out.front : out.back).push([a, cut]);
    (a[1] >= 0 ? out.back : out.front).push([cut, b]);
  }
  return out;
}

/** Tone of a backdrop at a height over its floor: eased between both, mixed in linear light. */
export function toneAt({ colour = [1, 1, 1], gradient }: Pick<StageMeasures, 'colour' | 'gradient'>, y: number): Vec3 {
  if (!gradient) return colour;
  const { from, to } = gradient;
  const t = to === from ? Number(y >= to) : Math.min(1, Math.max(0, (y - from) / (to - from)));
  return add(colour, scale(sub(gradient.colour, colour), t * t * (3 - 2 * t)));
}

/** Builds a stage: its meshes in the world, fronts towards the subject; nothing for “none”. Where its tone changes, with colours. */
export function buildStage(stage: StageMeasures): StageMesh[] {
  const meshes = bareStage(stage, stage.gradient ? TONE_ROWS : 1);
  if (!stage.gradient) return meshes;
  return meshes.map((mesh) => {
    if (mesh.part !== 'backdrop') return mesh;
    const colours = new Float32Array(mesh.positions.length);
    for (let i = 0; i < colours.length; i += 3) colours.set(toneAt(stage, mesh.positions[i + 1]! - stage.floor), i);
    return { ...mesh, colours };
  });
}

function bareStage(stage: StageMeasures, rows: number): StageMesh[] {
  const { width, front, back, height, floor } = stage;
  switch (stage.kind) {
    case 'none':
      return [];
    case 'sweep':
      return [{ part: 'backdrop', ...buildSweep(stage, rows) }];
    case 'floor':
      return [{ part: 'backdrop', ...level(width, front, back, floor) }];
    case 'flat':
      return [
        {
          part: 'backdrop',
          ...wall(
            [
              [-width / 2, -back, 0, 1],
              [width / 2, -back, 0, 1],
            ],
            floor,
            height,
            rows,
          ),
        },
      ];
    case 'corner': {
      const line = cornerLine(stage);
      return [
        { part: 'backdrop', ...joined([level(width, Math.max(front, width / 2 - back), back, floor), wall(line, floor, height, rows)]) },
      ];
    }
    case 'room': {
      const { front: fore, back: rear } = halves(roomLine(stage));
      const inside = (parts: [number, number, number, number][][]) => joined(parts.map((p) => wall(p, floor, height, rows)));
      return [
        { part: 'backdrop', ...joined([level(width, 0, back, floor), inside(rear)]) },
        { part: 'front', ...joined([level(width, front, 0, floor), inside(fore)]) },
      ];
    }
  }
}
