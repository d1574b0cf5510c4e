import { Logger, type Document, type Node as GltfNode, type Primitive, WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import { flipWinding, smoothNormals } from '../../geometry/index.ts';
import { restParts, type CharacterAsset, type ImportWarning, type Part } from '../../scene/index.ts';
import type { Material } from '../../surface/index.ts';
import { checkPart, counter, finishCharacter, ImportError } from '../character/index.ts';
import { landmarksOf } from '../../face/index.ts';
import { checkReferences, readContainer } from './container.ts';
import type { GltfJson } from './schema.ts';
import type { JpegDecoder } from '../jpeg.ts';
import { COMPRESSION_EXTENSIONS, decodersFor, jpegsOf, type ReadOptions } from './decoders.ts';
import { MaterialReader } from './material.ts';
import { numbersOf } from './numbers.ts';
import { Pictures } from './pictures.ts';
import { listTriangles, TRIANGLES } from './triangles.ts';
import { unreadOf } from './unread.ts';
import { mendCoordinates, mendNormals, mendShares } from './attributes.ts';
import { readClips, readPartRig, readSkeleton, weightsOf, worldsOf, type Skeleton } from './read-rig.ts';

/** Shares of the work, as measured on a plain file: parsed, and its meshes read; the head is sought in the rest. */
const OPENED = 0.2,
  SHAPED = 0.85;

const verticesOf = (node: GltfNode): number =>
  (node.getMesh()?.listPrimitives() ?? []).reduce((n, p) => n + (p.getAttribute('POSITION')?.getCount() ?? 0), 0);

/**
 * Reads a character from a binary glTF 2.0 file, plain or compressed by meshopt or Draco.
 * @throws ImportError with a code and a message that names the part and the reason.
 * @example const asset = await readGlb(bytes, 'keeper.glb'); asset.triangles
 */
export async function readGlb(bytes: Uint8Array, fileName = 'character.glb', options: ReadOptions = {}): Promise<CharacterAsset> {
  const warnings: ImportWarning[] = [];
  const { document, absent, unread, jpeg } = await openChecked(bytes, options);
  options.progress?.(OPENED);
  if (absent.length)
    warnings.push({ code: 'textures', message: `${absent.join(', ')} is not in the file; the material's plain colour stands in.` });
  if (unread.length) warnings.push({ code: 'unread', message: `The file has what is not read here: ${unread.join(', ')}.` });
  const parts: Part[] = [];
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
  if (!scene) throw new ImportError('no-triangles', 'The file has no scene.');
  const pictures = new Pictures(jpeg),
    materials = new MaterialReader(pictures);
  const skeleton = readSkeleton(scene.listChildren());
  const clips = readClips(document, skeleton, warnings);
  const skins = document.getRoot().listSkins().length > 0;
  // a shape that a morph target has made of it counts, too
  const morphed = document
    .getRoot()
    .listNodes()
    .some((node) => weightsOf(node).some((w) => w !== 0));
  const rig = clips.length > 0 || skins || morphed ? { nodes: skeleton.nodes, clips } : undefined;
  let vertices = 0;
  for (const node of skeleton.places.keys()) vertices += verticesOf(node);
  const count = counter(options.progress, OPENED, SHAPED, vertices);
  const worlds = worldsOf(skeleton);
  for (const [node, world] of worlds) {
    readNode(node, world, parts, materials, warnings, rig && skeleton);
    count(verticesOf(node));
  }
  if (!parts.length) throw new ImportError('no-triangles', 'The file has no triangles.');
  if (materials.clamped.size)
    warnings.push({
      code: 'mended',
      message: `Of ${[...materials.clamped].slice(0, 6).join(', ')} values lay beyond what they can be: the nearest that can be stands in.`,
    });
  const unseen = pictures.problems.filter((p) => !absent.some((name) => p.startsWith(name)));
  if (unseen.length) warnings.push({ code: 'textures', message: `${unseen.join('; ')}: plain colours stand in.` });
  const name = scene.getExtras()['name'] ?? scene.getName();
  return finishCharacter(
    typeof name === 'string' && name ? name : fileName.replace(/\.glb$/i, ''),
    rig ? restParts(parts, rig) : parts,
    landmarksOf(scene.getExtras()),
    warnings,
    rig,
  );
}

interface Opened {
  document: Document;
  absent: string[];
  unread: string[];
  jpeg: JpegDecoder;
}
async function openChecked(bytes: Uint8Array, decoders: ReadOptions): Promise<Opened> {
  const { json, bin } = readContainer(bytes);
  const absent = checkReferences(json, bin);
  const document = await readDocument(json, bin, absent, await decodersFor(json, decoders));
  listTriangles(document);
  return { absent, document, unread: unreadOf(json), jpeg: await jpegsOf(json, decoders) };
}

/** A GLB as a document of gltf-transform, checked as the reader checks it. @throws ImportError */
export const openGlb = async (bytes: Uint8Array, decoders: ReadOptions = {}): Promise<Document> =>
  (await openChecked(bytes, decoders)).document;

async function readDocument(json: object, bin: Uint8Array, absent: string[], decoders: Record<string, unknown>): Promise<Document> {
  const io = new WebIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions([...KHRONOS_EXTENSIONS, ...COMPRESSION_EXTENSIONS])
    .registerDependencies(decoders);
  const resources: Record<string, Uint8Array<ArrayBuffer>> = { '@glb.bin': new Uint8Array(bin) };
  for (const uri of absent) resources[uri] = new Uint8Array(0);
  try {
    return await io.readJSON({ json: structuredJson(json), resources });
  } catch (error) {
    throw new ImportError('broken', `The file cannot be read: ${error instanceof Error ? error.message : String(error)}`);
  }
}

/** gltf-transform looks for the binary chunk under this name. */
function structuredJson(json: object): never {
  const copy = JSON.parse(JSON.stringify(json)) as Pick<GltfJson, 'buffers'>;
  for (const b of copy.buffers ?? []) if (!b.extensions?.['EXT_meshopt_compression']?.fallback) b.uri ??= '@glb.bin';
  return copy as never;
}

function readNode(
  node: GltfNode,
  world: number[],
  parts: Part[],
  materials: MaterialReader,
  warnings: ImportWarning[],
  skeleton: Skeleton | undefined,
): void {
  const mesh = node.getMesh();
  if (!mesh) return;
  const name = node.getName() || mesh.getName() || `part ${parts.length + 1}`;
  for (const primitive of mesh.listPrimitives()) {
    if (primitive.getMode() !== TRIANGLES) {
      warnings.push({ code: 'skipped', part: name, message: `${name} holds lines or points, which were left out.` });
      continue;
    }
    const material = materials.read(primitive.getMaterial());
    // what moves is kept in its own space; what does not stands in the world at once
    const set = materials.coordinates(primitive.getMaterial());
    const part = readPrimitive(primitive, skeleton ? IDENTITY : world, { name, material, set }, warnings);
    if (!part) continue;
    if (skeleton) {
      part.rig = readPartRig(node, primitive, skeleton, part.positions, part.normals, name, warnings);
      // a mirrored node turns its triangles inside out
      if (!part.rig.skin && determinant3(world) < 0) flipWinding(part.indices);
    }
    parts.push(part);
  }
}

/** @param set which texture coordinates its pictures lie by */
function readPrimitive(
  primitive: Primitive,
  m: number[],
  { name, material, set }: { name: string; material: Material; set: number },
  warnings: ImportWarning[],
): Part | undefined {
  const position = primitive.getAttribute('POSITION');
  if (!position || position.getCount() === 0) return undefined;
  const count = position.getCount();
  const positions = new Float32Array(count * 3);
  const at = numbersOf(position);
  for (let i = 0; i < count; i++) {
    const x = at.array[i * at.size]!,
      y = at.array[i * at.size + 1]!,
      z = at.array[i * at.size + 2]!;
    // looked at before the node's matrix, where 0 · NaN would spread to the other coordinates
    if (!Number.isFinite(x + y + z)) {
      const bad = [x, y, z].findIndex((c) => !Number.isFinite(c));
      if (bad >= 0) throw new ImportError('bad-mesh', `${name}: Vertex ${i} has the coordinate ${'xyz'[bad]} = ${[x, y, z][bad]}.`);
    }
    for (let k = 0; k < 3; k++) positions[i * 3 + k] = m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!;
  }
  const index = primitive.getIndices();
  const indices = index ? Uint32Array.from(numbersOf(index).array) : Uint32Array.from({ length: count }, (_, i) => i);
  if (indices.length < 3) return undefined;
  // a mirrored node turns its triangles inside out
  if (determinant3(m) < 0) flipWinding(indices);
  checkPart({ name, positions, indices });
  const normal = primitive.getAttribute('NORMAL');
  const normals = normal ? transformNormals(numbersOf(normal), m) : smoothNormals(positions, indices);
  if (normal) mendNormals(normals, positions, indices, name, warnings);
  else warnings.push({ code: 'flat-shaded', part: name, message: `${name} has no normals; smooth ones were made.` });
  const colour = primitive.getAttribute('COLOR_0');
  let colours: Float32Array | undefined;
  if (colour) {
    const { array, size } = numbersOf(colour);
    colours = Float32Array.from({ length: count * 3 }, (_, i) => array[Math.floor(i / 3) * size + (i % 3)]!);
    mendShares(colours, name, warnings);
  }
  // of hair they tell how the strands run
  const coordinates = material.textures || material.fibres > 0 ? primitive.getAttribute(`TEXCOORD_${set}`) : null;
  let uvs: Float32Array | undefined;
  if (coordinates) {
    const { array, size } = numbersOf(coordinates);
    uvs = Float32Array.from({ length: count * 2 }, (_, i) => array[(i >> 1) * size + (i & 1)]!);
    mendCoordinates(uvs, name, warnings);
  }
  return { name, positions, normals, ...(colours ? { colours } : {}), ...(uvs ? { uvs } : {}), indices, material };
}

const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const determinant3 = (m: number[]): number =>
  m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) + m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);

/** Normals go by the cofactors of the node's matrix. */
function transformNormals({ array, size }: ReturnType<typeof numbersOf>, m: number[]): Float32Array {
  const out = new Float32Array((array.length / size) * 3);
  const c = (a: number, b: number, d: number, e: number) => m[a]! * m[b]! - m[d]! * m[e]!;
  const k = [
    c(5, 10, 6, 9),
    c(6, 8, 4, 10),
    c(4, 9, 5, 8),
    c(2, 9, 1, 10),
    c(0, 10, 2, 8),
    c(1, 8, 0, 9),
    c(1, 6, 2, 5),
    c(2, 4, 0, 6),
    c(0, 5, 1, 4),
  ];
  const sign = determinant3(m) < 0 ? -1 : 1;
  for (let i = 0, o = 0; o < out.length; i += size, o += 3) {
    const x = array[i]!,
      y = array[i + 1]!,
      z = array[i + 2]!;
    const nx = k[0]! * x + k[3]! * y + k[6]! * z,
      ny = k[1]! * x + k[4]! * y + k[7]! * z,
      nz = k[2]! * x + k[5]! * y + k[8]! * z;
    const l = sign * Math.hypot(nx, ny, nz) || 1;
    out[o] = nx / l;
    out[o + 1] = ny / l;
    out[o + 2] = nz / l;
  }
  return out;
}
