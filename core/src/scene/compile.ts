import { add, cross, DEGREE, normalize, scale, sub, turnY, type Vec3 } from '../math/index.ts';
import { buildSweep } from '../geometry/index.ts';
import { rectangleInWorld, setupHead, type Setup, type Subject } from '../setup/index.ts';
import type { Material } from '../surface/index.ts';
import type { CharacterAsset, Part } from './asset.ts';
import type { Scene, SceneCamera, SceneGeometry, SceneLight } from './types.ts';

/** A setup names a character that is not at hand. */
export class MissingAssetError extends Error {
  readonly asset: string;
  constructor(subject: string, asset: string) {
    super(`${subject} needs the character file ${asset.slice(0, 12)}…, which is not here.`);
    this.name = 'MissingAssetError';
    this.asset = asset;
  }
}

/** Finds a character by the SHA-256 of its file. */
export type AssetSource = (sha256: string) => CharacterAsset | undefined;

/**
 * Turns a setup into flat arrays and content keys. Pass the last scene to re-use its geometry where nothing changed.
 * @throws MissingAssetError when a visible subject's file is not at hand.
 */
export function compile(setup: Setup, assets: AssetSource, last?: Scene): Scene {
  const key = geometryKey(setup);
  const geometry = last?.geometry.key === key ? last.geometry : compileGeometry(setup, assets, key);
  return { geometry, camera: compileCamera(setup), lights: compileLights(setup) };
}

function geometryKey(setup: Setup): string {
  const subjects = setup.subjects.order
    .map((id) => setup.subjects.items[id]!)
    .filter((s) => s.visible)
    .map((s) => [s.asset, s.position, s.turn, s.scale]);
  return JSON.stringify([subjects, setup.stage]);
}

/** The camera of a setup. */
export function compileCamera(setup: Setup): SceneCamera {
  const { position, target, focal, aspect } = setup.camera;
  const forward = normalize(sub(target, position), [0, 0, -1]);
  const right = normalize(cross(forward, [0, 1, 0]), [1, 0, 0]);
  const up = cross(right, forward);
  return { key: JSON.stringify([position, target, focal, aspect]), origin: position, forward, right, up, halfHeight: 12 / focal, aspect };
}

/** The lights of a setup, in order; keys hold only what changes rays. */
export function compileLights(setup: Setup): SceneLight[] {
  const head = setupHead(setup);
  return setup.lights.order.map((id) => {
    const light = setup.lights.items[id]!;
    if (light.kind === 'dome') return { id, key: 'dome', kind: 'dome' };
    const rectangle = rectangleInWorld(head, light);
    return { id, key: JSON.stringify(rectangle), kind: 'rectangle', rectangle };
  });
}

interface Piece {
  part: Part;
  place: (p: Vec3) => Vec3;
  turn: (n: Vec3) => Vec3;
}

function stagePart(setup: Setup): Part[] {
  const stage = setup.stage;
  if (stage.kind !== 'sweep') return [];
  const material: Material = { name: 'backdrop', base: stage.colour, metallic: 0, roughness: stage.roughness, clear: false };
  return [{ name: 'backdrop', ...buildSweep(stage), material }];
}

function subjectPieces(subject: Subject, asset: CharacterAsset): Piece[] {
  const angle = subject.turn * DEGREE;
  return asset.parts.map((part) => ({
    part,
    place: (p) => add(subject.position, scale(turnY(p, angle), subject.scale)),
    turn: (n) => turnY(n, angle),
  }));
}

function compileGeometry(setup: Setup, assets: AssetSource, key: string): SceneGeometry {
  const pieces: Piece[] = stagePart(setup).map((part) => ({ part, place: (p) => p, turn: (n) => n }));
  for (const id of setup.subjects.order) {
    const subject = setup.subjects.items[id]!;
    if (!subject.visible) continue;
    const asset = assets(subject.asset);
    if (!asset) throw new MissingAssetError(subject.name, subject.asset);
    pieces.push(...subjectPieces(subject, asset));
  }
  // clear parts last, so that one number tells shadow rays what to pass
  pieces.sort((a, b) => Number(a.part.material.clear) - Number(b.part.material.clear));
  const vertices = pieces.reduce((n, p) => n + p.part.positions.length / 3, 0);
  const corners = pieces.reduce((n, p) => n + p.part.indices.length, 0);
  const positions = new Float32Array(vertices * 3),
    normals = new Float32Array(vertices * 3),
    colours = new Float32Array(vertices * 3).fill(1),
    indices = new Uint32Array(corners),
    triangleMaterial = new Uint16Array(corners / 3);
  const materials: Material[] = [];
  let v = 0,
    c = 0,
    clearFrom = corners / 3;
  for (const { part, place, turn } of pieces) {
    if (part.material.clear) clearFrom = Math.min(clearFrom, c / 3);
    let m = materials.indexOf(part.material);
    if (m < 0) m = materials.push(part.material) - 1;
    triangleMaterial.fill(m, c / 3, (c + part.indices.length) / 3);
    for (let i = 0; i < part.indices.length; i++) indices[c + i] = part.indices[i]! + v / 3;
    for (let i = 0; i < part.positions.length; i += 3) {
      positions.set(place([part.positions[i]!, part.positions[i + 1]!, part.positions[i + 2]!]), v + i);
      normals.set(turn([part.normals[i]!, part.normals[i + 1]!, part.normals[i + 2]!]), v + i);
    }
    if (part.colours) colours.set(part.colours, v);
    v += part.positions.length;
    c += part.indices.length;
  }
  return { key, mesh: { positions, indices, clearFrom }, normals, colours, triangleMaterial, materials };
}
