// What mends meshes: crease normals, winding, subdivision.
import { describe, expect, it } from '@jest/globals';
import { BoxGeometry, IcosahedronGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { buildBall, creaseNormals, flipWinding, insideOut, loopBeta, loopSubdivide, smoothNormals, weld } from './index.ts';

const meshOf = (g: BufferGeometry) => {
  const positions = Float32Array.from(g.getAttribute('position').array);
  const index = g.getIndex();
  return weld(positions, index ? Uint32Array.from(index.array) : Uint32Array.from({ length: positions.length / 3 }, (_, i) => i));
};
// an icosahedron's 20 triangles by three.js
const ico = meshOf(new IcosahedronGeometry(1, 0));
const cube = meshOf(new BoxGeometry(1, 1, 1));

describe('crease normals', () => {
  it('make facets at 0°, the flat normals of a cube at 30°, and round ones at 180°', () => {
    for (const [angle, vertices] of [
      [0, 24],
      [30, 24],
      [180, 8],
    ] as const) {
      const { from, normals, indices } = creaseNormals(cube.positions, cube.indices, angle);
      expect(from).toHaveLength(vertices);
      expect(indices).toHaveLength(36);
      for (let v = 0; v < from.length; v++) {
        const n = [...normals.subarray(v * 3, v * 3 + 3)];
        expect(Math.hypot(...n)).toBeCloseTo(1, 5);
        if (angle < 90) expect(Math.max(...n.map(Math.abs))).toBeCloseTo(1, 5);
        // by angles a cube's corner looks along its diagonal, however its squares are cut
        else n.forEach((c, k) => expect(c).toBeCloseTo(2 * cube.positions[from[v]! * 3 + k]! * Math.sqrt(1 / 3), 5));
      }
    }
  });
  it('join places that a texture’s seam has split', () => {
    const split = new BoxGeometry(1, 1, 1);
    const positions = Float32Array.from(split.getAttribute('position').array);
    const { normals } = creaseNormals(positions, Uint32Array.from(split.getIndex()!.array), 180);
    for (let i = 0; i < normals.length; i++) expect(Math.abs(normals[i]!)).toBeCloseTo(Math.sqrt(1 / 3), 5);
  });
  it('of a fine ball point away from its middle', () => {
    const ball = buildBall([0, 0, 0], 1, 30);
    const { normals, from } = creaseNormals(ball.positions, ball.indices, 40);
    for (let v = 0; v < from.length; v++) {
      const dot = [0, 1, 2].reduce((s, k) => s + normals[v * 3 + k]! * ball.positions[from[v]! * 3 + k]!, 0);
      expect(dot).toBeGreaterThan(0.99);
    }
  });
});

describe('winding', () => {
  it('tells a closed surface that is inside out, and mends it', () => {
    const turned = cube.indices.slice();
    flipWinding(turned);
    expect(insideOut(cube.positions, cube.indices)).toBe(false);
    expect(insideOut(cube.positions, turned)).toBe(true);
    flipWinding(turned);
    expect([...turned]).toEqual([...cube.indices]);
  });
  it('is told of what has an opening far from where it is measured, as gloves have, by pieces', () => {
    // two balls without their caps, at the height of hands, opening upwards and outwards
    const glove = (x: number) =>
      meshOf(new SphereGeometry(0.1, 24, 16, 0, 2 * Math.PI, 0.9, Math.PI - 0.9).rotateZ(x > 0 ? -0.6 : 0.6).translate(x, 0.9, 0));
    const [left, right] = [glove(0.3), glove(-0.3)];
    const positions = Float32Array.of(...left.positions, ...right.positions),
      indices = Uint32Array.of(...left.indices, ...right.indices.map((i) => i + left.positions.length / 3));
    expect(insideOut(positions, indices)).toBe(false);
    flipWinding(indices);
    expect(insideOut(positions, indices)).toBe(true);
  });
  it('says nothing of a dish', () => {
    const { positions, indices } = meshOf(new SphereGeometry(0.1, 24, 16, 0, 2 * Math.PI, 0, 0.6));
    expect(insideOut(positions, indices)).toBe(false);
    flipWinding(indices);
    expect(insideOut(positions, indices)).toBe(false);
  });
  it('says nothing of a sheet', () => {
    const sheet = Float32Array.of(0, 0, -1, 1, 0, -1, 0, 1, -1);
    expect(insideOut(sheet, Uint32Array.of(0, 1, 2))).toBe(false);
    expect(insideOut(sheet, Uint32Array.of(0, 2, 1))).toBe(false);
  });
});

describe('Loop subdivision', () => {
  it('takes Loop’s own weights at three and six neighbours', () => {
    // n = 3: 3/16; n = 6: 1/16 (Loop 1987)
    expect(loopBeta(3)).toBe(3 / 16);
    expect(loopBeta(6)).toBe(1 / 16);
  });
  it('brings vertices to their published limit positions', () => {
    // limit mask: centre 1 − nω, neighbours ω = 1 / (n + 3 / (8β)) (Zorin, Schröder 2000, "Subdivision for Modeling and Animation", 4.2)
    const n = 5,
      omega = 1 / (n + 3 / (8 * loopBeta(n)));
    const limit = [0, 1, 2].map((k) => {
      const around = new Set<number>();
      for (let i = 0; i < ico.indices.length; i += 3) {
        const t = [...ico.indices.subarray(i, i + 3)];
        if (t.includes(0)) t.filter((v) => v !== 0).forEach((v) => around.add(v));
      }
      expect(around.size).toBe(n);
      return (1 - n * omega) * ico.positions[k]! + omega * [...around].reduce((s, v) => s + ico.positions[v * 3 + k]!, 0);
    });
    let mesh: { positions: Float32Array; indices: Uint32Array } = ico;
    for (let step = 0; step < 6; step++) mesh = loopSubdivide(mesh.positions, mesh.indices);
    limit.forEach((v, k) => expect(mesh.positions[k]!).toBeCloseTo(v, 3));
    expect(mesh.indices).toHaveLength(60 * 4 ** 6);
  });
  it('keeps a flat sheet flat and its border’s corners in line', () => {
    const positions = Float32Array.of(0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0);
    const indices = Uint32Array.of(0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4);
    const once = loopSubdivide(positions, indices);
    for (let i = 2; i < once.positions.length; i += 3) expect(once.positions[i]).toBe(0);
    // the vertex in the middle of the lower border stays where its straight neighbours hold it
    expect([...once.positions.subarray(3, 6)]).toEqual([1, 0, 0]);
    // an edge's middle on the border
    const onBorder = [...Array(once.parents.length / 2).keys()].find((v) => once.parents[v * 2] === 0 && once.parents[v * 2 + 1] === 1)!;
    expect([...once.positions.subarray(onBorder * 3, onBorder * 3 + 3)]).toEqual([0.5, 0, 0]);
  });
  it('makes smooth what seams have split: no crack opens', () => {
    const split = new BoxGeometry(1, 1, 1);
    const once = loopSubdivide(Float32Array.from(split.getAttribute('position').array), Uint32Array.from(split.getIndex()!.array));
    const joined = weld(once.positions, once.indices);
    const edges = new Map<string, number>();
    for (let i = 0; i < joined.indices.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [joined.indices[i + k]!, joined.indices[i + ((k + 1) % 3)]!].sort((x, y) => x - y);
        edges.set(`${a} ${b}`, (edges.get(`${a} ${b}`) ?? 0) + 1);
      }
    expect([...edges.values()].every((v) => v === 2)).toBe(true);
    expect(smoothNormals(joined.positions, joined.indices).every(Number.isFinite)).toBe(true);
  });
});
