import type { MeshPart } from '@plinket/kernel';
import { sharedFloats, sharedInts } from '../math/index.ts';
import { isVeil, type Material } from '../surface/index.ts';
import { standPoint, type Piece } from './pieces.ts';
import type { SceneGeometry } from './types.ts';

/**
 * Lays all pieces into flat arrays. Groups that did not change since `last`, in a geometry of the same division, are copied
 * as they are, and their part of the mesh keeps its key, so that its hierarchy is not built again.
 */
export function compileGeometry(pieces: Piece[], key: string, last?: SceneGeometry): SceneGeometry {
  const vertices = pieces.reduce((n, p) => n + p.part.positions.length / 3, 0),
    corners = pieces.reduce((n, p) => n + p.part.indices.length, 0);
  const positions = sharedFloats(vertices * 3),
    normals = sharedFloats(vertices * 3),
    colours = sharedFloats(vertices * 3),
    indices = sharedInts(corners),
    triangleMaterial = new Uint16Array(corners / 3),
    triangleObject = new Uint16Array(corners / 3);
  const pictures = pieces.some((p) => p.material.textures || (p.material.fibres > 0 && p.part.uvs));
  const uvs = pictures ? sharedFloats(vertices * 2) : new Float32Array(0);
  const materials: Material[] = [],
    objects: string[] = [],
    parts: MeshPart[] = [];
  colours.fill(1);
  const sameShape = last !== undefined && last.mesh.positions.length === positions.length && last.mesh.indices.length === corners;
  let v = 0,
    c = 0,
    clearFrom = corners / 3;
  pieces.forEach((piece, at) => {
    const { part, material, stand } = piece;
    const clear = isVeil(material);
    if (clear) clearFrom = Math.min(clearFrom, c / 3);
    // a new part of the mesh where the group changes or the clear ones begin
    const previous = pieces[at - 1];
    const partKey = `${piece.group} ${clear ? 'clear ' : ''}${piece.groupKey}`;
    if (previous?.group === piece.group && (c / 3 !== clearFrom || !clear)) parts.at(-1)!.count += part.indices.length / 3;
    else parts.push({ first: c / 3, count: part.indices.length / 3, key: partKey });
    let m = materials.indexOf(material);
    if (m < 0) m = materials.push(material) - 1;
    let o = objects.indexOf(piece.object);
    if (o < 0) o = objects.push(piece.object) - 1;
    triangleMaterial.fill(m, c / 3, (c + part.indices.length) / 3);
    triangleObject.fill(o, c / 3, (c + part.indices.length) / 3);
    for (let i = 0; i < part.indices.length; i++) indices[c + i] = part.indices[i]! + v / 3;
    const unmoved = sameShape && last.mesh.parts?.some((p) => p.key === partKey && p.first === parts.at(-1)!.first);
    if (unmoved) {
      positions.set(last.mesh.positions.subarray(v, v + part.positions.length), v);
      normals.set(last.normals.subarray(v, v + part.positions.length), v);
    } else if (stand) standUp(part, stand, positions, normals, v);
    else {
      positions.set(part.positions, v);
      normals.set(part.normals, v);
    }
    if (part.colours) colours.set(part.colours, v);
    if (pictures && part.uvs) uvs.set(part.uvs, (v / 3) * 2);
    v += part.positions.length;
    c += part.indices.length;
  });
  return {
    key,
    mesh: { positions, indices, clearFrom, parts, objects: triangleObject, shading: { normals, colours, triangleMaterial } },
    normals,
    colours,
    uvs,
    triangleMaterial,
    triangleObject,
    materials,
    objects,
  };
}

function standUp(
  part: Piece['part'],
  stand: NonNullable<Piece['stand']>,
  positions: Float32Array,
  normals: Float32Array,
  at: number,
): void {
  // the turn as a matrix: columns are where the axes go
  const [ox, oy, oz] = stand.position;
  const [ax, , az] = standPoint({ ...stand, position: [0, 0, 0], scale: 1 }, [1, 0, 0]),
    [cx, , cz] = standPoint({ ...stand, position: [0, 0, 0], scale: 1 }, [0, 0, 1]);
  const s = stand.scale;
  for (let i = 0; i < part.positions.length; i += 3) {
    const x = part.positions[i]!,
      y = part.positions[i + 1]!,
      z = part.positions[i + 2]!;
    positions[at + i] = ox + s * (ax * x + cx * z);
    positions[at + i + 1] = oy + s * y;
    positions[at + i + 2] = oz + s * (az * x + cz * z);
    const nx = part.normals[i]!,
      nz = part.normals[i + 2]!;
    normals[at + i] = ax * nx + cx * nz;
    normals[at + i + 1] = part.normals[i + 1]!;
    normals[at + i + 2] = az * nx + cz * nz;
  }
}
