// Wavefront OBJ with MTL (the published file format descriptions): polygons, negative indices, groups, materials with their pictures, colours at
// vertices.
import { smoothNormals } from '../../geometry/index.ts';
import { decodeSrgb } from '../../photometry/index.ts';
import { material, type Material } from '../../surface/index.ts';
import type { CharacterAsset, ImportWarning, Part } from '../../scene/index.ts';
import { checkPart, counter, finishCharacter, ImportError, type Progress } from '../character/index.ts';
import { textOf } from '../text.ts';
import { readMtl, type MtlMaterial } from './mtl.ts';
import { ObjPictures } from './pictures.ts';

/** One part while it is read. */
interface Draft {
  name: string;
  material: string;
  /** Corner by corner: index of position, of normal and of texture coordinates (−1: none). */
  corners: number[];
  normals: number[];
  coordinates: number[];
}

/**
 * Reads a character from an OBJ; `beside` are the material files and pictures that came with it, by name.
 * @throws ImportError that names the line and the reason.
 */
export function readObj(
  bytes: Uint8Array,
  fileName: string,
  beside: Map<string, Uint8Array> = new Map(),
  progress?: Progress,
): CharacterAsset {
  const lines = textOf(bytes)
    .replace(/\\\r?\n/g, ' ')
    .split(/\r\n|\n|\r/);
  const positions: number[] = [],
    colours: number[] = [],
    normals: number[] = [],
    coordinates: number[] = [];
  const warnings: ImportWarning[] = [];
  const materials = new Map<string, MtlMaterial>();
  const missing = new Set<string>();
  const drafts = new Map<string, Draft>();
  let object = '',
    surface = '',
    skipped = 0;
  const fail = (line: number, reason: string): never => {
    throw new ImportError('broken', `Line ${line + 1}: ${reason}`);
  };
  const number = (word: string | undefined, line: number): number => {
    const v = Number(word);
    return word === undefined || word === '' || !Number.isFinite(v) ? fail(line, `“${word ?? ''}” is no number.`) : v;
  };
  const index = (word: string, count: number, what: string, line: number): number => {
    const i = Number(word);
    if (!Number.isInteger(i) || i === 0) fail(line, `“${word}” is no index of a ${what}.`);
    const at = i > 0 ? i - 1 : count + i;
    if (at < 0 || at >= count) fail(line, `${what} ${i} does not exist; there are ${count} so far.`);
    return at;
  };
  const count = counter(progress, 0.1, 0.85, lines.length);
  for (let n = 0; n < lines.length; n++) {
    count(1);
    const [word, ...rest] = lines[n]!.replace(/#.*/, '').trim().split(/\s+/);
    switch (word) {
      case 'v':
        for (let k = 0; k < 3; k++) positions.push(number(rest[k], n));
        // colours at vertices, as many programs write them behind the coordinates: as they look, sRGB
        if (rest.length >= 6)
          for (let k = 3; k < 6; k++) colours[positions.length - 6 + k] = decodeSrgb(Math.min(1, Math.max(0, number(rest[k], n))));
        break;
      case 'vn':
        for (let k = 0; k < 3; k++) normals.push(number(rest[k], n));
        break;
      case 'vt':
        // its pictures begin below, those here above
        coordinates.push(number(rest[0], n), 1 - (rest[1] === undefined ? 0 : number(rest[1], n)));
        break;
      case 'o':
      case 'g':
        object = rest.join(' ');
        break;
      case 'usemtl':
        surface = rest.join(' ');
        break;
      case 'mtllib':
        for (const name of [rest.join(' '), ...rest]) {
          const file = beside.get(name) ?? beside.get(name.split(/[\\/]/).at(-1)!);
          if (!file) continue;
          for (const [key, m] of readMtl(textOf(file), name)) materials.set(key, m);
          break;
        }
        if (materials.size === 0) missing.add(rest.join(' '));
        break;
      case 'f': {
        const key = `${object} ${surface}`;
        let draft = drafts.get(key);
        if (!draft)
          drafts.set(key, (draft = { name: object || surface || 'mesh', material: surface, corners: [], normals: [], coordinates: [] }));
        if (rest.length < 3) fail(n, `a face has ${rest.length} corners; 3 are the least.`);
        const face = rest.map((corner) => {
          const [v, vt, vn] = corner.split('/');
          return [
            index(v!, positions.length / 3, 'vertex', n),
            vn ? index(vn, normals.length / 3, 'normal', n) : -1,
            vt ? index(vt, coordinates.length / 2, 'texture coordinate', n) : -1,
          ] as const;
        });
        // a fan from the first corner: polygons of the format are flat and convex, or nearly
        for (let k = 1; k + 1 < face.length; k++)
          for (const c of [face[0]!, face[k]!, face[k + 1]!]) {
            draft.corners.push(c[0]);
            draft.normals.push(c[1]);
            draft.coordinates.push(c[2]);
          }
        break;
      }
      case 'l':
      case 'p':
      case 'curv':
      case 'surf':
        skipped++;
        break;
    }
  }
  if (skipped) warnings.push({ code: 'skipped', message: `${skipped} lines, points or curves were left out.` });
  if (missing.size)
    warnings.push({
      code: 'textures',
      message: `${[...missing].join(', ')} was not dropped with it: plain grey stands in. Drop both together.`,
    });
  const pictures = new ObjPictures(beside),
    dressed = new Map<string, Material>();
  const materialOf = (name: string): Material => {
    const known = materials.get(name),
      made =
        dressed.get(name) ?? (known ? pictures.dress(known) : material({ name: name || 'grey', base: [0.5, 0.5, 0.5], roughness: 0.6 }));
    dressed.set(name, made);
    return made;
  };
  const parts: Part[] = [];
  for (const draft of drafts.values())
    parts.push(partOf(draft, { positions, normals, colours, coordinates }, materialOf(draft.material), warnings));
  if (pictures.missing.size)
    warnings.push({
      code: 'textures',
      message: `${[...pictures.missing].join(', ')} did not come along: plain colours stand in. Drop all together.`,
    });
  if (pictures.problems.length) warnings.push({ code: 'textures', message: `${pictures.problems.join('; ')}: plain colours stand in.` });
  return finishCharacter(fileName.replace(/\.obj$/i, ''), parts, {}, warnings);
}

function partOf(
  draft: Draft,
  { positions, normals, colours, coordinates }: Record<'positions' | 'normals' | 'colours' | 'coordinates', number[]>,
  look: Material,
  warnings: ImportWarning[],
): Part {
  // of position and normal, and of both and coordinates: all three in one number would be more than it holds
  const pairs = new Map<number, number>(),
    known = new Map<number, number>();
  const own: number[] = [],
    ownNormals: number[] = [],
    ownCoordinates: number[] = [],
    indices: number[] = [];
  draft.corners.forEach((v, i) => {
    const vn = draft.normals[i]!;
    const vt = draft.coordinates[i]!;
    const pair = v * (normals.length / 3 + 1) + vn + 1;
    if (!pairs.has(pair)) pairs.set(pair, pairs.size);
    const key = pairs.get(pair)! * (coordinates.length / 2 + 1) + vt + 1;
    let at = known.get(key);
    if (at === undefined) {
      at = own.push(v) - 1;
      ownNormals.push(vn);
      ownCoordinates.push(vt);
      known.set(key, at);
    }
    indices.push(at);
  });
  const p = Float32Array.from(own.flatMap((v) => positions.slice(v * 3, v * 3 + 3)));
  const index = Uint32Array.from(indices);
  checkPart({ name: draft.name, positions: p, indices: index });
  const complete = ownNormals.every((n) => n >= 0);
  if (!complete) warnings.push({ code: 'flat-shaded', part: draft.name, message: `${draft.name} has no normals; smooth ones were made.` });
  const n = complete
    ? Float32Array.from(ownNormals.flatMap((v) => unit(normals[v * 3]!, normals[v * 3 + 1]!, normals[v * 3 + 2]!)))
    : smoothNormals(p, index);
  const painted = own.every((v) => colours[v * 3] !== undefined);
  return {
    name: draft.name,
    positions: p,
    normals: n,
    indices: index,
    ...(painted ? { colours: Float32Array.from(own.flatMap((v) => [colours[v * 3]!, colours[v * 3 + 1]!, colours[v * 3 + 2]!])) } : {}),
    ...(look.textures
      ? { uvs: Float32Array.from(ownCoordinates.flatMap((c) => (c < 0 ? [0, 0] : [coordinates[c * 2]!, coordinates[c * 2 + 1]!]))) }
      : {}),
    material: look,
  };
}

const unit = (x: number, y: number, z: number): [number, number, number] => {
  const l = Math.hypot(x, y, z) || 1;
  return [x / l, y / l, z / l];
};
