import { describe, expect, it } from '@jest/globals';
import { material, type CharacterAsset } from '@plinket/core';
import { HEAD } from '../../../core/src/testing/setups.ts';
import { partsOf, reportOf } from './messages.ts';

describe('what the page is told of a character', () => {
  const skin = material({ name: 'skin', subsurface: 1, freePath: [0.003, 0.001, 0.0005], sheen: [0.1, 0.4, 0.2] });
  const triangle = { positions: new Float32Array(9), normals: new Float32Array(9), indices: Uint32Array.from([0, 1, 2]) };
  const asset: CharacterAsset = {
    name: 'Goat',
    parts: [
      { name: 'hide', ...triangle, material: skin },
      { name: 'horn', ...triangle, material: material({ roughness: 0.3 }) },
    ],
    bounds: { min: [-0.5, 0.1, -0.2], max: [0.5, 1.6, 0.2] },
    triangles: 2,
    head: HEAD,
    landmarks: { noseTip: [0, 1, 0] },
    warnings: [],
  };
  it('is its size in metres, its parts and landmarks', () => {
    expect(reportOf(asset, 'goat.glb')).toMatchObject({ size: { width: 1, height: 1.5 }, floor: 0.1, triangles: 2, landmarks: 1 });
  });
  it('are its parts’ surfaces, with paths in millimetres', () => {
    const [hide, horn] = partsOf(asset);
    expect(hide).toMatchObject({ name: 'hide', subsurface: 1, freePath: [3, 1, 0.5], sheen: 0.4 });
    expect(horn).toMatchObject({ name: 'horn', roughness: 0.3, subsurface: 0 });
  });
});
