import { add, DEGREE, scale, turnY, type Vec3 } from '../math/index.ts';
import { buildBall, buildPlinth, buildStage, buildSteps } from '../geometry/index.ts';
import { changedMaterial, orderOf, partRef, propRef, type ObjectRef, type Setup, type Subject } from '../setup/index.ts';
import { clayOf, isVeil, material, type Material } from '../surface/index.ts';
import type { CharacterAsset, Part } from './asset.ts';
import { withGaze } from './gaze.ts';
import { partsAt } from './pose.ts';
import { spunPoint, type Spin } from './spin.ts';

/** A setup names a file that is not at hand. */
export class MissingAssetError extends Error {
  readonly asset: string;
  constructor(who: string, asset: string) {
    super(`${who} needs the file ${asset.slice(0, 12)}…, which is not here.`);
    this.name = 'MissingAssetError';
    this.asset = asset;
  }
}

/** Finds a character by the SHA-256 of its file. */
export type AssetSource = (sha256: string) => CharacterAsset | undefined;

/** A part as it stands on the stage. Parts of one group move together; a group's key changes with its positions. */
export interface Piece {
  part: Part;
  material: Material;
  object: ObjectRef;
  group: string;
  groupKey: string;
  /** Turn about the vertical, scale and place; nothing for parts that are in the world already. */
  stand?: { angle: number; scale: number; position: Vec3 };
}

/**
 * Everything that stands on the stage, clear parts last, and one key for it all; no pieces when the key is `lastKey`. The stage and the things on it
 * may have turned.
 * @throws MissingAssetError
 */
export function scenePieces(
  setup: Setup,
  assets: AssetSource,
  { clay, stage: spin }: { clay: boolean; stage?: Spin | undefined },
  lastKey?: string,
): { pieces?: Piece[]; key: string } {
  const subjects = orderOf(setup.subjects)
    .map((id) => ({ id, subject: setup.subjects.items[id]! }))
    .filter(({ subject }) => subject.visible);
  const props = orderOf(setup.props)
    .map((id) => ({ id, prop: setup.props.items[id]! }))
    .filter(({ prop }) => prop.visible);
  const key = JSON.stringify([
    subjects.map(({ id, subject: s }) => [id, s.asset, s.position, s.turn, s.scale, s.materials, s.pose?.clip, s.pose?.time, s.gaze]),
    setup.stage,
    props.map(({ id, prop: { visible: _, name: _name, rank: _rank, ...rest } }) => [id, rest]),
    clay,
    ...(spin ? [spin] : []),
  ]);
  if (key === lastKey) return { key };
  const pieces: Piece[] = [...stagePieces(setup), ...props.flatMap(({ id, prop }) => propPieces(id, prop))];
  if (spin) for (const p of pieces) turnPiece(p, spin);
  for (const { id, subject } of subjects) {
    const asset = assets(subject.asset);
    if (!asset) throw new MissingAssetError(subject.name, subject.asset);
    pieces.push(...subjectPieces(id, subject, asset));
  }
  if (clay) for (const p of pieces) if (p.material !== CHROME && p.material !== GREY) intoClay(p);
  // clear parts last, so that one number tells shadow rays what to pass; parts of one group stay together
  const rank = (p: Piece) => Number(isVeil(p.material));
  return { key, pieces: pieces.sort((a, b) => rank(a) - rank(b)) };
}

/** A piece of the stage that has turned with it. */
function turnPiece(piece: Piece, spin: Spin): void {
  piece.stand = { angle: spin.angle * DEGREE, scale: 1, position: spunPoint([0, 0, 0], spin) };
  piece.groupKey += JSON.stringify(spin);
}

/** Grey clay instead of a piece's own material, colours at its vertices included; what is clear stays so. */
function intoClay(piece: Piece): void {
  const clay = clayOf(piece.material);
  if (clay === piece.material) return;
  const { colours: _, ...part } = piece.part;
  piece.material = clay;
  piece.part = part;
}

/** Of what has its colours at its vertices. */
const WHITE: Vec3 = [1, 1, 1];

/** A room's front half is there from within only: the camera stands outside and looks in. */
function stagePieces(setup: Setup): Piece[] {
  const { stage } = setup;
  const { colour, frontColour, gradient, roughness, ...shape } = stage;
  const meshes = buildStage(stage);
  return meshes.map(({ part: name, ...mesh }) => {
    const base = name === 'front' ? frontColour : mesh.colours ? WHITE : colour;
    const surface = material({ name, base, roughness, twoSided: name !== 'front' });
    return {
      part: { name, ...mesh, material: surface },
      material: surface,
      object: `stage/${name}` satisfies ObjectRef,
      group: 'stage',
      // a changing tone needs rows, wherever it changes
      groupKey: JSON.stringify([shape, gradient !== undefined]),
    };
  });
}

/** Common practice, no source: a reference ball of polished chrome reflects about half of the light. */
const CHROME = material({ name: 'chrome', base: [0.55, 0.556, 0.554], metallic: 1, roughness: 0.03 });
/** 18 % grey, matt: middle grey of the photographer's card (common practice). */
const GREY = material({ name: 'grey 18 %', base: [0.18, 0.18, 0.18], roughness: 0.9, specular: 0.2 });

function propPieces(id: string, prop: Setup['props']['items'][string]): Piece[] {
  const group = `prop ${id}`;
  if (prop.kind === 'ball') {
    const finish = prop.finish === 'chrome' ? CHROME : GREY;
    const part: Part = { name: prop.name, ...buildBall(prop.position, prop.radius), material: finish };
    return [{ part, material: finish, object: propRef(id), group, groupKey: JSON.stringify([prop.position, prop.radius]) }];
  }
  const { colour, roughness, name, visible: _, ...shape } = prop;
  const surface = material({ name, base: colour, roughness });
  const part: Part = { name, ...(prop.kind === 'steps' ? buildSteps(prop) : buildPlinth(prop)), material: surface };
  return [{ part, material: surface, object: propRef(id), group, groupKey: JSON.stringify(shape) }];
}

function subjectPieces(id: string, subject: Subject, asset: CharacterAsset): Piece[] {
  const stand = { angle: subject.turn * DEGREE, scale: subject.scale, position: subject.position };
  const groupKey = JSON.stringify([subject.asset, stand, subject.pose?.clip, subject.pose?.time, subject.gaze]);
  const changed = new Map<string, Material>();
  return withGaze(partsAt(asset, subject.pose), subject).map((part, i) => {
    // one object for each source and change, so that parts which share a material still do
    const change = subject.materials[part.name];
    const known = `${asset.parts.findIndex((p) => p.material === asset.parts[i]!.material)} ${change ? JSON.stringify(change) : ''}`;
    if (!changed.has(known)) changed.set(known, changedMaterial(part.material, change));
    return { part, material: changed.get(known)!, object: partRef(id, part.name), group: `subject ${id}`, groupKey, stand };
  });
}

/** A part's point in the world. */
export const standPoint = (stand: NonNullable<Piece['stand']>, p: Vec3): Vec3 =>
  add(stand.position, scale(turnY(p, stand.angle), stand.scale));
