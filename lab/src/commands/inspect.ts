import { basename } from 'node:path';
import { guessScale, insideOut, inspectLightFile, LightFileError, stanceOf, type CharacterAsset } from '@plinket/core';
import { brought, filesOf } from '../characters.ts';
import { UsageError } from '../usage.ts';

const round = (v: number): number => Math.round(v * 1e5) / 1e5;
const share = (v: number): number => Math.round(v * 100) / 100;

/** What `inspect` says of a character. */
export function inspection(asset: CharacterAsset) {
  const { min, max } = asset.bounds;
  const { head } = asset;
  const [width, height, depth] = [0, 1, 2].map((k) => round(max[k]! - min[k]!)) as [number, number, number];
  const stance = stanceOf(asset),
    guesses = stance.up === 'z' ? guessScale(depth, width, height) : guessScale(height, width, depth);
  return {
    name: asset.name,
    metres: { width, height, depth, min: min.map(round), max: max.map(round) },
    triangles: asset.triangles,
    parts: asset.parts.map((p) => ({
      name: p.name,
      triangles: p.indices.length / 3,
      vertices: p.positions.length / 3,
      material: p.material.name,
      winding: insideOut(p.positions, p.indices) ? 'inside out' : 'outwards',
    })),
    stance: { up: stance.up, faces: stance.faces, sure: share(stance.sure), by: stance.by },
    scale: guesses.map(({ unit, factor, height: tall }) => ({ unit, factor, height: round(tall) })),
    facing: head.forward.map(round),
    head: {
      origin: head.origin.map(round),
      forward: head.forward.map(round),
      up: head.up.map(round),
      height: round(head.height),
      source: head.source,
      sure: share(asset.headSure ?? 1),
    },
    landmarks: asset.landmarks,
    warnings: asset.warnings,
  };
}

/** Prints what a character's file, or a file for a light, holds. */
export async function inspectCommand(positional: string[]): Promise<void> {
  const file = positional[0];
  if (!file) throw new UsageError('Which file? Give a GLB, glTF, OBJ, PLY or STL, or an HDR, EXR, IES or PNG for a light.');
  const found = /\.(hdr|exr|ies|png)$/i.test(file) ? forLight(file) : inspection((await brought(file)).asset);
  console.log(JSON.stringify(found, null, 2));
}

function forLight(file: string) {
  try {
    return { file: basename(file), ...inspectLightFile(filesOf(file)[0].bytes) };
  } catch (error) {
    throw error instanceof LightFileError ? new UsageError(`${file}: ${error.message}`) : error;
  }
}
