// The binary glTF container (glTF 2.0 specification, section 4.4), read with suspicion: every length is checked against
// what is really there before anything is believed.

import { ImportError } from '../character/index.ts';
import { FILE_LIMITS } from '../../math/index.ts';
import { checkGltf, type GltfJson } from './schema.ts';
import { READ_EXTENSIONS } from './unread.ts';

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/**
 * Splits a GLB into its JSON and its binary chunk.
 * @throws ImportError not-glb, version, truncated or broken.
 */
export function readContainer(bytes: Uint8Array): { json: GltfJson; bin: Uint8Array } {
  if (bytes.length < 12)
    throw new ImportError(
      bytes.length >= 4 && isMagic(bytes) ? 'truncated' : 'not-glb',
      'This is not a GLB file: it is shorter than a GLB header.',
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (!isMagic(bytes)) throw new ImportError('not-glb', 'This is not a GLB file: it does not begin with “glTF”.');
  const version = view.getUint32(4, true);
  if (version !== 2) throw new ImportError('version', `GLB version ${version} is not supported; version 2 is.`);
  const declared = view.getUint32(8, true);
  if (declared > bytes.length)
    throw new ImportError('truncated', `The header announces ${declared} bytes, the file has ${bytes.length}: it is cut off.`);
  let json: GltfJson | undefined;
  let bin = new Uint8Array(0);
  for (let at = 12; at + 8 <= declared;) {
    const length = view.getUint32(at, true),
      type = view.getUint32(at + 4, true);
    if (at + 8 + length > declared)
      throw new ImportError('truncated', `A chunk announces ${length} bytes where ${declared - at - 8} are left.`);
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (type === JSON_CHUNK && !json) json = parseJson(chunk);
    else if (type === BIN_CHUNK && bin.length === 0) bin = new Uint8Array(chunk);
    at += 8 + length + ((4 - (length & 3)) & 3);
  }
  if (!json) throw new ImportError('broken', 'The file has no JSON chunk.');
  return { json, bin };
}

const isMagic = (b: Uint8Array): boolean => (b[0]! | (b[1]! << 8) | (b[2]! << 16) | (b[3]! << 24)) === MAGIC;

function parseJson(chunk: Uint8Array): GltfJson {
  let text = '',
    value: unknown;
  for (let i = 0; i < chunk.length; i += 8192) text += String.fromCharCode(...chunk.subarray(i, i + 8192));
  try {
    // the chunk is UTF-8; percent-decoding turns its bytes into characters without a DOM or Node type
    value = JSON.parse(/[\x80-\xff]/.test(text) ? decodeURIComponent(escapeBytes(text)) : text);
  } catch {
    throw new ImportError('broken', 'The JSON chunk cannot be read.');
  }
  return checkGltf(value);
}

const escapeBytes = (text: string): string => text.replace(/[%\x80-\xff]/g, (c) => '%' + c.charCodeAt(0).toString(16).padStart(2, '0'));

/**
 * Checks references that a reader would trip over: extensions that cannot be read, buffer views that lie outside the
 * binary chunk, textures without an image. Answers the names of pictures that are not in the file.
 * @throws ImportError truncated, broken or unsupported.
 */
export function checkReferences(json: GltfJson, bin: Uint8Array): string[] {
  const foreign = (json.extensionsRequired ?? []).filter((e) => !READ_EXTENSIONS.has(e));
  if (foreign.length)
    throw new ImportError('unsupported', `The file needs ${foreign.join(', ')}, which cannot be read. Export it without that.`);
  (json.buffers ?? []).forEach((b, i) => {
    if (b.uri !== undefined && !b.uri.startsWith('data:'))
      throw new ImportError('broken', `Buffer ${i} lies in another file (${b.uri}). Export one GLB.`);
    // a fallback holds nothing: what would be in it is compressed elsewhere
    if (b.extensions?.['EXT_meshopt_compression']?.fallback) return;
    if (b.uri === undefined && (b.byteLength ?? 0) > bin.length)
      throw new ImportError('truncated', `Buffer ${i} announces ${b.byteLength} bytes, the file holds ${bin.length}.`);
  });
  (json.bufferViews ?? []).forEach((v, i) => {
    const buffer = json.buffers?.[v.buffer];
    if (!buffer) throw new ImportError('broken', `Buffer view ${i} points to buffer ${v.buffer}, which does not exist.`);
    if ((v.byteOffset ?? 0) + v.byteLength > (buffer.byteLength ?? 0))
      throw new ImportError('broken', `Buffer view ${i} reaches beyond its buffer.`);
  });
  checkAccessors(json);
  checkNodes(json);
  (json.materials ?? []).forEach((m, i) => {
    const index = m.pbrMetallicRoughness?.baseColorTexture?.index;
    if (index === undefined) return;
    const source = json.textures?.[index]?.source;
    if (!json.textures?.[index] || (source !== undefined && !json.images?.[source]))
      throw new ImportError('broken', `Material ${m.name ?? i} uses texture ${index}, which is not there.`);
  });
  return (json.images ?? []).filter((i) => i.uri !== undefined && !i.uri.startsWith('data:')).map((i) => i.uri!);
}

/**
 * Counts are whole, those of sparse accessors not above what they change, and not more in all than can be read: asked before memory is taken.
 * @throws ImportError broken or too-large
 */
export function checkAccessors({ accessors = [], bufferViews = [] }: GltfJson): void {
  let all = 0;
  accessors.forEach(({ bufferView, count, sparse }, i) => {
    if (bufferView !== undefined && !bufferViews[bufferView])
      throw new ImportError('broken', `Accessor ${i} points to buffer view ${bufferView}, which does not exist.`);
    if (!Number.isInteger(count) || count < 0) throw new ImportError('broken', `Accessor ${i} has ${count} elements.`);
    if (sparse !== undefined && !(Number.isInteger(sparse.count) && sparse.count >= 0 && sparse.count <= count))
      throw new ImportError('broken', `Accessor ${i} changes ${sparse.count} of its ${count} elements.`);
    all += count;
  });
  if (all > FILE_LIMITS.gltfElements)
    throw new ImportError(
      'too-large',
      `The file announces ${all} elements in its accessors; ${FILE_LIMITS.gltfElements / 1e6} million are the most.`,
    );
}

/**
 * Nodes are a forest (glTF 2.0, section 3.5.2): none is its own ancestor, none has two parents; and there are not too many parts.
 * @throws ImportError broken or too-large
 */
export function checkNodes({ nodes = [], meshes = [] }: GltfJson): void {
  if (nodes.length > FILE_LIMITS.gltfNodes)
    throw new ImportError('too-large', `The file has ${nodes.length} nodes; ${FILE_LIMITS.gltfNodes} are the most.`);
  const parent = new Int32Array(nodes.length).fill(-1);
  const label = (i: number): string => (nodes[i]?.name ? `“${nodes[i].name}”` : `number ${i}`);
  nodes.forEach((node, i) => {
    for (const child of node.children ?? []) {
      if (!nodes[child]) throw new ImportError('broken', `Node ${label(i)} has a child, number ${child}, which does not exist.`);
      if (parent[child]! >= 0) throw new ImportError('broken', `Node ${label(child)} hangs below two others.`);
      parent[child] = i;
    }
  });
  // every node is walked once: a walk that comes back to where it has been itself goes round in a circle
  const seen = new Int32Array(nodes.length).fill(-1);
  for (let i = 0; i < nodes.length; i++) {
    let at = i;
    for (; at >= 0 && seen[at]! < 0; at = parent[at]!) seen[at] = i;
    if (at >= 0 && seen[at] === i) throw new ImportError('broken', `Node ${label(at)} is its own ancestor.`);
  }
  const depth = new Int32Array(nodes.length),
    way: number[] = [];
  for (let i = 0; i < nodes.length; i++) {
    // up to the first whose depth is known, then back down
    for (let at = i; at >= 0 && depth[at] === 0; at = parent[at]!) way.push(at);
    for (let at = way.pop(); at !== undefined; at = way.pop()) depth[at] = parent[at]! < 0 ? 1 : depth[parent[at]!]! + 1;
    if (depth[i]! > FILE_LIMITS.gltfDepth)
      throw new ImportError('too-large', `Node ${label(i)} hangs ${depth[i]} levels deep; ${FILE_LIMITS.gltfDepth} are the most.`);
  }
  const parts = nodes.reduce((n, node) => n + (node.mesh === undefined ? 0 : (meshes[node.mesh]?.primitives?.length ?? 0)), 0);
  if (parts > FILE_LIMITS.parts)
    throw new ImportError(
      'too-large',
      `The file has ${parts} parts; ${FILE_LIMITS.parts} are the most. Join what need not be lit by itself.`,
    );
}
