import { checkMesh, type RayKernel, type RayMesh } from './types.ts';

/** Bytes of a worker's own block: traversal stack, rays, hits, shadow rays, answers. */
const STACK_BYTES = 8192;
const PAGE = 65536;
const NODE_BYTES = 64; // at most one 128-byte node for two triangles
const PACKET_BYTES = 208; // at most one packet for each triangle

interface Exports {
  build(positions: number, indices: number, triangles: number, nodes: number, packets: number, scratch: number): number;
  scratchBytes(triangles: number): number;
  nodeCount(): number;
  packetCount(): number;
  closest(root: number, rays: number, hits: number, count: number, stack: number): void;
  occluded(root: number, rays: number, out: number, count: number, clearFrom: number, stack: number): void;
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
const blockBytes = (capacity: number): number => align(STACK_BYTES + capacity * (32 + 16 + 32 + 1));

function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory): Exports {
  const env = { memory, abort: () => undefined };
  return new WebAssembly.Instance(module, { env }).exports as unknown as Exports;
}

/**
 * Builds the hierarchy of a mesh in WebAssembly memory.
 * @throws MeshError for positions that are not finite or indices out of range.
 */
export function buildAccel(module: WebAssembly.Module, mesh: RayMesh, options: BuildOptions = {}): WasmAccel {
  checkMesh(mesh);
  const { capacity = 8192, seats = 1, shared = false } = options;
  const triangles = mesh.indices.length / 3;
  // Layout: [workers' blocks][nodes][packets][positions][indices][scratch]. What only the build needs lies last and is
  // never touched again.
  const blocks = 128;
  const nodes = align(blocks + seats * blockBytes(capacity));
  const packets = align(nodes + triangles * NODE_BYTES + 256);
  const positions = align(packets + Math.max(1, triangles) * PACKET_BYTES);
  const indices = align(positions + mesh.positions.byteLength + 16);
  const scratch = align(indices + mesh.indices.byteLength);
  const needed = scratch + triangles * 128 + 4096;
  const pages = Math.ceil(needed / PAGE);
  const memory = new WebAssembly.Memory(shared ? { initial: pages, maximum: 32768, shared: true } : { initial: pages });
  const exports = instantiate(module, memory);
  new Float32Array(memory.buffer, positions, mesh.positions.length).set(mesh.positions);
  new Uint32Array(memory.buffer, indices, mesh.indices.length).set(mesh.indices);
  const root = exports.build(positions, indices, triangles, nodes, packets, scratch);
  const clearFrom = mesh.clearFrom ?? triangles;
  return { memory, root, clearFrom, blocks, capacity, seats, nodes: exports.nodeCount(), packets: exports.packetCount() };
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
  return {
    kind: 'simd',
    capacity,
    rays: new Float32Array(buffer, rays, capacity * 8),
    hits: new Float32Array(buffer, hits, capacity * 4),
    hitIds: new Int32Array(buffer, hits, capacity * 4),
    shadowRays: new Float32Array(buffer, shadowRays, capacity * 8),
    blocked: new Uint8Array(buffer, blocked, capacity),
    closest: (count) => exports.closest(root, rays, hits, count, stack),
    occluded: (count) => exports.occluded(root, shadowRays, blocked, count, clearFrom, stack),
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
