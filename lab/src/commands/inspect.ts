import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { readCharacter, type CharacterAsset } from '@plinket/core';
import { dracoDecoder } from '@plinket/engine/node';
import { UsageError } from '../usage.ts';

const round = (v: number): number => Math.round(v * 1e5) / 1e5;

/** What `inspect` says of a character. */
export function inspection(asset: CharacterAsset) {
  const { min, max } = asset.bounds;
  const { head } = asset;
  return {
    name: asset.name,
    metres: {
      width: round(max[0] - min[0]),
      height: round(max[1] - min[1]),
      depth: round(max[2] - min[2]),
      min: min.map(round),
      max: max.map(round),
    },
    triangles: asset.triangles,
    parts: asset.parts.map((p) => ({
      name: p.name,
      triangles: p.indices.length / 3,
      vertices: p.positions.length / 3,
      material: p.material.name,
    })),
    facing: head.forward.map(round),
    head: {
      origin: head.origin.map(round),
      forward: head.forward.map(round),
      up: head.up.map(round),
      height: round(head.height),
      source: head.source,
    },
    landmarks: asset.landmarks,
    warnings: asset.warnings,
  };
}

export async function inspectCommand(positional: string[]): Promise<void> {
  const file = positional[0];
  if (!file) throw new UsageError('Which file? Give a GLB, glTF, OBJ, PLY or STL.');
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(file);
  } catch {
    throw new UsageError(`${file}: there is no such file.`);
  }
  // an OBJ's materials, and the buffers and pictures of a .gltf, lie beside it
  const wanted = /\.obj$/i.test(file) ? /\.mtl$/i : /\.gltf$/i.test(file) ? /\.(bin|png|jpe?g|webp)$/i : undefined;
  const folder = dirname(file);
  const beside = new Map(
    (wanted && existsSync(folder) ? readdirSync(folder) : [])
      .filter((n) => wanted!.test(n))
      .map((n) => [n, readFileSync(join(folder, n))] as const),
  );
  console.log(JSON.stringify(inspection(await readCharacter(bytes, basename(file), { beside, draco: dracoDecoder })), null, 2));
}
