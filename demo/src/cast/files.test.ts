// The files of the cast as they ship.
import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { partsAt, readGlb, type CharacterAsset } from '@plinket/core';
import { validateBytes } from 'gltf-validator';
import { Triangle, Vector3 } from 'three';
import { CHARACTER_FILES } from '../index.ts';
import { asymmetry } from '../form/proportions.ts';
import { actorOf } from './cast.ts';
import { BUST_PUPILS } from './character.ts';

type Part = CharacterAsset['parts'][number];
const MB = 1e6,
  STEP = 1 / 4096;

/** Distance of a point to the nearest triangle of parts, by three.js. */
function distanceTo(parts: Part[], point: readonly number[]): number {
  const p = new Vector3(...(point as [number, number, number])),
    at = new Vector3(),
    triangle = new Triangle();
  let least = Infinity;
  for (const { positions, indices } of parts)
    for (let i = 0; i < indices.length; i += 3) {
      const corner = (k: number, into: Vector3) => into.fromArray(positions, indices[i + k]! * 3);
      corner(0, triangle.a);
      // two centimetres are more than any edge is long
      if (triangle.a.distanceToSquared(p) > 4e-4) continue;
      corner(1, triangle.b);
      corner(2, triangle.c);
      least = Math.min(least, triangle.closestPointToPoint(p, at).distanceTo(p));
    }
  return least;
}

describe.each(CHARACTER_FILES.map((f) => [f.name, f] as const))('%s', (name, { id, path, cut }) => {
  let bytes: Uint8Array, asset: CharacterAsset;
  beforeAll(async () => {
    bytes = Uint8Array.from(readFileSync(path));
    asset = await readGlb(bytes, name);
  });
  const named = (start: string): Part[] => asset.parts.filter((p) => p.name.startsWith(start));
  it('passes the official glTF validator without an error or a warning', async () => {
    const { issues } = (await validateBytes(bytes)) as { issues: { messages: { code: string; severity: number }[] } };
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  });
  it('is of a size to ship', () => {
    expect(bytes.length).toBeLessThan(cut === 'bust' ? 5 * MB : 7 * MB);
    expect(asset.triangles).toBeGreaterThan(80_000);
    expect(asset.triangles).toBeLessThanOrEqual(250_000);
  });
  it('has no part that lies anywhere else than the character, at rest and in its clip', () => {
    const clip = asset.rig!.clips[0]!;
    for (const time of [0, clip.duration / 2])
      for (const { name: part, positions } of partsAt(asset, { clip: clip.name, time })) {
        const far = positions.reduce((most, v) => Math.max(most, Math.abs(v)), 0);
        expect([part, far < 2]).toEqual([part, true]);
      }
  });
  it('has its landmarks within a millimetre of its skin, pupils of its corneas', () => {
    const skin = named('skin'),
      cornea = named('cornea');
    const { eyeCentreL, eyeCentreR, pupilL, pupilR, ...onSkin } = asset.landmarks;
    expect(Object.keys(onSkin)).toHaveLength(13);
    for (const [mark, point] of Object.entries(onSkin)) expect([mark, distanceTo(skin, point) < 0.001]).toEqual([mark, true]);
    for (const point of [pupilL!, pupilR!]) expect(distanceTo(cornea, point)).toBeLessThan(0.001);
    for (const point of [eyeCentreL!, eyeCentreR!]) expect(distanceTo(named('eye white'), point)).toBeGreaterThan(0.01);
  });
  if (cut === 'bust')
    it('mirrors left and right within half a millimetre, but for the asymmetry that is meant', () => {
      const { proportions, scale } = actorOf(id);
      const [{ positions, indices }] = named('skin') as [Part];
      // back in the frame of the proportions, millimetres
      const even = Float32Array.from(positions, (v, i) => ((i % 3 === 1 ? v - BUST_PUPILS : v) / scale) * 1000);
      for (let i = 0; i < even.length; i += 3) asymmetry({ ...proportions, asymmetry: -proportions.asymmetry }, even, i);
      const straight = [{ positions: even.map((v) => v / 1000), indices } as Part];
      const vertices = positions.length / 3,
        off: number[] = [];
      for (let i = 0; i < vertices; i += Math.ceil(vertices / 150))
        // not at the rim where the bust ends, whose teeth are of the grid
        if (even[i * 3 + 1]! > -255)
          off.push(distanceTo(straight, [-even[i * 3]! / 1000, even[i * 3 + 1]! / 1000, even[i * 3 + 2]! / 1000]));
      expect(off.length).toBeGreaterThan(100);
      off.sort((a, b) => b - a);
      // making a mesh coarser is not the same on both sides of a lid's edge: one place of a hundred and more may be out by that
      expect(off[1]).toBeLessThan(0.0005);
      expect(off[0]).toBeLessThan(0.001);
    });
  it('has texture coordinates within the square, and no triangle of a picture turned over', () => {
    for (const { name: part, uvs, indices, material } of asset.parts) {
      if (!uvs) continue;
      for (const v of uvs) if (!(v >= -1e-4 && v <= 1 + 1e-4)) throw new Error(`${part}: ${v}`);
      if (!material.textures) continue;
      let turned = 0;
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [indices[i]! * 2, indices[i + 1]! * 2, indices[i + 2]! * 2];
        const [ux, uy, vx, vy] = [uvs[b]! - uvs[a]!, uvs[b + 1]! - uvs[a + 1]!, uvs[c]! - uvs[a]!, uvs[c + 1]! - uvs[a + 1]!];
        // twelve bits move a corner by so much at most: slivers may be turned over by that alone
        if (ux * vy - vx * uy > STEP * (Math.hypot(ux, uy) + Math.hypot(vx, vy))) turned++;
      }
      expect([part, turned]).toEqual([part, 0]);
    }
  });
  it('has hair whose strands run along V and begin at the skin', () => {
    const skin = named('skin');
    for (const { name: part, positions, uvs, indices, material } of [...named('hair'), ...named('brows')]) {
      expect(material.fibres).toBeGreaterThan(0);
      expect(new Set([...uvs!].filter((_, i) => i % 2 === 1)).size).toBeGreaterThan(4);
      const roots = [...new Set(indices)].filter((v) => uvs![v * 2 + 1] === 0);
      const some = roots.filter((_, i) => i % Math.ceil(roots.length / 60) === 0);
      expect(some.length).toBeGreaterThan(20);
      // half a millimetre, half of a ribbon, and what making the skin coarser took
      const off = some.map((v) => distanceTo(skin, [...positions.slice(v * 3, v * 3 + 3)])).filter((d) => d > 0.0015);
      expect([part, off.length / some.length < 0.1]).toEqual([part, true]);
    }
  });
});

it('all files together are within what a download may have', () => {
  expect(CHARACTER_FILES.reduce((n, { path }) => n + readFileSync(path).length, 0)).toBeLessThan(36 * MB);
});
