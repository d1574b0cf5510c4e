import { joinParts, topNodes, type PartRoot } from './join.ts';
import {
  CORNER_WORDS,
  LIT_COLUMNS,
  makeShader,
  shaderBytes,
  VERTEX_FLOATS,
  writeVertices,
  type ShadeExports,
  type Shader,
} from './shader.ts';
import { checkMesh, type MeshPart, type RayMesh } from './mesh.ts';
import type { RayKernel } from './types.ts';

/** Bytes of a worker's own block: traversal stack, rays, hits, shadow rays, answers. */
const STACK_BYTES = 8192;
const PAGE = 65536;
const NODE_BYTES = 64; // at most one 128-byte node for two triangles
const PACKET_BYTES = 208; // at most one packet for each triangle
/** Room that each part has beyond its triangles' share. */
const PART_BYTES = 256;

interface Exports extends ShadeExports {
  build(positions: number, indices: number, first: number, triangles: number, nodes: number, packets: number, scratch: number): number;
  rootBox(): number;
  scratchBytes(triangles: number): number;
  nodeCount(): number;
  packetCount(): number;
  closest(root: number, rays: number, hits: number, count: number, stack: number): void;
  occluded(root: number, rays: number, out: number, count: number, clearFrom: number, stack: number): void;
  occludedBy(
    root: number,
    rays: number,
    out: number,
    count: number,
    clearFrom: number,
    stack: number,
    objects: number,
    table: number,
  ): void;
}

/** A built hierarchy in a memory; can be sent to other threads when the memory is shared. */
export interface WasmAccel {
  memory: WebAssembly.Memory;
  root: number;
  clearFrom: number;
  /** Where the workers' blocks begin, and how many rays each block holds. */
  blocks: number;
  capacity: number;
  seats: number;
  nodes: number;
  packets: number;
  /** Where things lie, for `rebuild`. */
  layout: Layout;
  vertices: number;
  parts: (MeshPart & PartRoot)[];
}

interface Layout {
  top: number;
  nodes: number;
  packets: number;
  positions: number;
  indices: number;
  /** 0 where the mesh does not say what its surfaces look like. */
  vertices: number;
  corners: number;
  /** 0 where the mesh does not say which object a triangle belongs to. */
  objects: number;
  /** Each seat's tables: which objects cast, `table` bytes, and which are lit, as many rows of `LIT_COLUMNS`. */
  tables: number;
  table: number;
  scratch: number;
}

export interface BuildOptions {
  /** Rays of each kind in one batch. */
  capacity?: number;
  /** How many workers will attach. */
  seats?: number;
  /** Use memory that threads can share (the module must be the shared build). */
  shared?: boolean;
}

const align = (n: number): number => (n + 127) & ~127;
const rayBytes = (capacity: number): number => align(STACK_BYTES + capacity * (32 + 16 + 32 + 1));
const blockBytes = (capacity: number): number => rayBytes(capacity) + align(shaderBytes());

function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory): Exports {
  const env = { memory, abort: () => undefined };
  return new WebAssembly.Instance(module, { env }).exports as unknown as Exports;
}

const tableBytes = (table: number): number => table * (1 + LIT_COLUMNS);

/** How many objects triangles belong to. */
const objectsIn = (objects: Uint16Array): number => objects.reduce((most, o) => (o > most ? o : most), 0) + 1;

const partsOf = (mesh: RayMesh): MeshPart[] => mesh.parts ?? [{ first: 0, count: mesh.indices.length / 3, key: '' }];

/**
 * Builds the hierarchy of a mesh in WebAssembly memory: one tree for each part, and a small tree over the parts.
 * @throws MeshError for positions that are not finite or indices out of range.
 */
export function buildAccel(module: WebAssembly.Module, mesh: RayMesh, options: BuildOptions = {}): WasmAccel {
  checkMesh(mesh);
  const { capacity = 8192, seats = 1, shared = false } = options;
  const triangles = mesh.indices.length / 3;
  const parts = partsOf(mesh);
  // Layout: [workers' blocks][tree over parts][nodes][packets][positions][indices][scratch]. A part's nodes and packets
  // lie where its triangles' numbers put them, so that it can be built again in place.
  const blocks = 128;
  const top = align(blocks + seats * blockBytes(capacity));
  const nodes = align(top + topNodes(parts.length) * 128);
  const packets = align(nodes + triangles * NODE_BYTES + parts.length * PART_BYTES);
  const positions = align(packets + triangles * PACKET_BYTES + parts.length * PART_BYTES);
  const indices = align(positions + mesh.positions.byteLength + 16);
  const looks = mesh.shading !== undefined;
  const vertices = align(indices + mesh.indices.byteLength);
  const corners = align(vertices + (looks ? (mesh.positions.length / 3) * VERTEX_FLOATS * 4 : 0));
  const objects = align(corners + (looks ? triangles * CORNER_WORDS * 4 : 0));
  const tables = align(objects + (mesh.objects ? triangles * 2 : 0));
  const table = mesh.objects ? align(objectsIn(mesh.objects)) : 0;
  const scratch = tables + seats * tableBytes(table);
  const needed = scratch + triangles * 128 + 4096;
  const pages = Math.ceil(needed / PAGE);
  const memory = new WebAssembly.Memory(shared ? { initial: pages, maximum: 32768, shared: true } : { initial: pages });
  const accel: WasmAccel = {
    memory,
    root: 0,
    clearFrom: mesh.clearFrom ?? triangles,
    blocks,
    capacity,
    seats,
    nodes: 0,
    packets: 0,
    layout: {
      top,
      nodes,
      packets,
      positions,
      indices,
      vertices: looks ? vertices : 0,
      corners: looks ? corners : 0,
      objects: mesh.objects ? objects : 0,
      tables,
      table,
      scratch,
    },
    vertices: mesh.positions.length / 3,
    parts: [],
  };
  buildParts(module, accel, mesh, new Set(parts.keys()));
  return accel;
}

/**
 * Builds again, in place, the parts whose key changed. Nobody may trace meanwhile. Answers the numbers of the parts that
 * were built, or nothing when the mesh has another division and needs `buildAccel`.
 * @throws MeshError as `buildAccel`.
 */
export function rebuild(module: WebAssembly.Module, accel: WasmAccel, mesh: RayMesh): number[] | undefined {
  const parts = partsOf(mesh);
  const same =
    parts.length === accel.parts.length &&
    parts.every((p, i) => p.first === accel.parts[i]!.first && p.count === accel.parts[i]!.count) &&
    (mesh.clearFrom ?? mesh.indices.length / 3) === accel.clearFrom &&
    (mesh.shading !== undefined) === accel.layout.vertices > 0 &&
    (mesh.objects ? align(objectsIn(mesh.objects)) : 0) === accel.layout.table &&
    mesh.positions.length === accel.vertices * 3;
  if (!same) return undefined;
  checkMesh(mesh);
  const changed = [...parts.keys()].filter((i) => parts[i]!.key !== accel.parts[i]!.key);
  buildParts(module, accel, mesh, new Set(changed));
  return changed;
}

function buildParts(module: WebAssembly.Module, accel: WasmAccel, mesh: RayMesh, wanted: Set<number>): void {
  const { memory, layout } = accel;
  const exports = instantiate(module, memory);
  new Float32Array(memory.buffer, layout.positions, mesh.positions.length).set(mesh.positions);
  new Uint32Array(memory.buffer, layout.indices, mesh.indices.length).set(mesh.indices);
  if (mesh.objects) new Uint16Array(memory.buffer, layout.objects, mesh.objects.length).set(mesh.objects);
  if (mesh.shading)
    writeVertices(
      mesh,
      new Float32Array(memory.buffer, layout.vertices, (mesh.positions.length / 3) * VERTEX_FLOATS),
      new Uint32Array(memory.buffer, layout.corners, (mesh.indices.length / 3) * CORNER_WORDS),
    );
  accel.parts = partsOf(mesh).map((part, i) => {
    if (!wanted.has(i)) return accel.parts[i]!;
    const root = exports.build(
      layout.positions,
      layout.indices + part.first * 12,
      part.first,
      part.count,
      layout.nodes + part.first * NODE_BYTES + i * PART_BYTES,
      layout.packets + part.first * PACKET_BYTES + i * PART_BYTES,
      layout.scratch,
    );
    accel.nodes += exports.nodeCount();
    accel.packets += exports.packetCount();
    const box = new Float32Array(memory.buffer, exports.rootBox(), 8);
    return { ...part, root, box: part.count ? [box[0]!, box[1]!, box[2]!, box[4]!, box[5]!, box[6]!] : undefined };
  });
  accel.root = joinParts(memory.buffer, layout.top, accel.parts);
}

/** A kernel over a built hierarchy; `seat` is this thread's own number, below `accel.seats`. */
export function attachKernel(module: WebAssembly.Module, accel: WasmAccel, seat = 0): RayKernel {
  if (seat >= accel.seats) throw new RangeError(`Seat ${seat} of ${accel.seats}.`);
  const exports = instantiate(module, accel.memory);
  const { capacity, root, clearFrom } = accel;
  const stack = accel.blocks + seat * blockBytes(capacity);
  const rays = stack + STACK_BYTES;
  const hits = rays + capacity * 32;
  const shadowRays = hits + capacity * 16;
  const blocked = shadowRays + capacity * 32;
  const buffer = accel.memory.buffer;
  const { vertices, corners, objects, tables, table } = accel.layout;
  const own = new Uint8Array(buffer, tables + seat * tableBytes(table), table);
  const places = { rays, hits, shadowRays, blocked, vertices, corners, lit: own.byteOffset + table, objects: table };
  const shader: Shader | undefined = vertices > 0 ? makeShader(exports, buffer, stack + rayBytes(capacity), places) : undefined;
  return {
    kind: 'simd',
    capacity,
    rays: new Float32Array(buffer, rays, capacity * 8),
    hits: new Float32Array(buffer, hits, capacity * 4),
    hitIds: new Int32Array(buffer, hits, capacity * 4),
    shadowRays: new Float32Array(buffer, shadowRays, capacity * 8),
    blocked: new Uint8Array(buffer, blocked, capacity),
    closest: (count) => exports.closest(root, rays, hits, count, stack),
    occluded: (count, casts) => {
      if (!casts || table === 0) return exports.occluded(root, shadowRays, blocked, count, clearFrom, stack);
      own.set(casts.subarray(0, table));
      exports.occludedBy(root, shadowRays, blocked, count, clearFrom, stack, objects, own.byteOffset);
    },
    ...(shader ? { shader } : {}),
  };
}

/** Compiles the kernel, or returns nothing where SIMD is missing: then the plain twin serves. */
export function compileKernel(bytes: Uint8Array): WebAssembly.Module | undefined {
  try {
    return new WebAssembly.Module(bytes as unknown as ArrayBuffer);
  } catch {
    return undefined;
  }
}
