import type { RayMesh } from './mesh.ts';
import { batchArrays, batchBytes, batchStride, BATCH_FIELDS, type BatchArrays } from './batch.ts';

/** Paths that a shader's batch holds. */
export const BATCH_CAPACITY = 8192;
/** Rectangle lights that it can be given, and floats of films that it has room for. */
export const SHADER_LIGHTS = 256;
export const FILM_ROOM = 1 << 20;
const MASK_WORDS = 4096;
const TABLE_FLOATS = 1024;
const MATERIAL_FLOATS = 16;
const MOST_MATERIALS = 1024;
/** Floats of a material's own curves: 32 pairs of A and B over the cosine. */
const CURVE_FLOATS = 64;
const LIGHT_BYTES = 64;
/** Where a light's record says where its column of the table of lit objects begins. */
const LIT_AT = 56;
/** Lights that may light some objects only; one byte each for every object. */
export const LIT_COLUMNS = 64;
/** Four rectangles side by side, as `meetRectangles` reads them: 14 floats each and a slot. */
const GROUP_WORDS = 60;
const DIM_BYTES = 64;
const CAMERA_BYTES = 64;

/** One pair of random dimensions as the shader wants it. */
export interface ShaderDimension {
  a: number;
  b: number;
  ax: number;
  ay: number;
  bx: number;
  by: number;
}

/**
 * The hot half of shading in the kernel's memory: plain opaque surfaces under rectangle lights. What it leaves to the host
 * is marked in the batch. See assembly/shade for what each step reads and writes.
 */
export interface Shader {
  readonly capacity: number;
  readonly fields: BatchArrays;
  readonly waiting: Float32Array;
  /** Room for the films of a job. */
  readonly films: Float32Array;
  /** Gives it the blue-noise mask and the albedo tables A and B (32 × 32). */
  setTables(mask: Uint32Array, a: Float32Array, b: Float32Array): void;
  /** Sixteen floats for each material; answers false when there are too many. */
  setMaterials(materials: Float32Array): boolean;
  /** Forgets all rectangles. */
  clearRectangles(): void;
  /** Number of the object that each path left last; who has lights that do not light all keeps it. */
  readonly left: Uint16Array;
  /**
   * Corner, unit axes x y z, lengths of x and y. `lit`: rays that meet it are the shader's matter, all of them or those that left objects which it
   * says are lit, one byte each. Answers whether they are.
   */
  setRectangle(slot: number, floats: number[], lit: 'all' | 'none' | Uint8Array): boolean;
  /** `camera`: origin, forward, right, up, half width and height at distance 1, width and height of the picture. */
  cameraRays(
    camera: number[],
    tile: { x: number; y: number; width: number; height: number },
    dimension: ShaderDimension,
    seed: number,
  ): number;
  aimRectangle(slot: number, count: number, dimension: ShaderDimension): void;
  /** Adds what rays bring that meet a rectangle to the film of its slot; films have `size` floats each. */
  meetRectangles(count: number, size: number, second: number, bounces: number): void;
  /** Answers how many contributions wait. */
  lightPlain(count: number, begin: number, lastDepth: number, alone: boolean): number;
  addUnblocked(film: number, second: number, count: number): void;
  stand(count: number, lastDepth: number): number;
  scatterPlain(count: number, choices: ShaderDimension, directions: ShaderDimension, lastDepth: number): void;
  depart(count: number): number;
  /** Squares of samples, for `floats` / 3 pixels of `films` from its beginning on; see `beginSquares`. */
  addSquares(floats: number): void;
  /** Clears the squares of so many floats of films and answers them. */
  beginSquares(floats: number): Float32Array;
}

/** The exports of assembly/shade. */
export interface ShadeExports {
  aimRectangle(batch: number, stride: number, count: number, light: number, mask: number, dim: number): void;
  meetRectangles(
    batch: number,
    stride: number,
    count: number,
    groups: number,
    rectangles: number,
    lights: number,
    rays: number,
    hits: number,
    film: number,
    size: number,
    second: number,
    bounces: number,
    left: number,
  ): void;
  lightPlain(
    batch: number,
    stride: number,
    count: number,
    table: number,
    waiting: number,
    shadowRays: number,
    begin: number,
    limit: number,
    alone: number,
  ): number;
  addUnblocked(batch: number, stride: number, waiting: number, blocked: number, film: number, second: number, count: number): void;
  stand(
    batch: number,
    stride: number,
    count: number,
    rays: number,
    hits: number,
    vertices: number,
    corners: number,
    materials: number,
    curves: number,
    lastDepth: number,
  ): number;
  scatterPlain(batch: number, stride: number, count: number, mask: number, dims: number, table: number, lastDepth: number): void;
  depart(batch: number, stride: number, count: number, rays: number): number;
  addSquares(film: number, before: number, squares: number, count: number): void;
  cameraRays(
    batch: number,
    stride: number,
    rays: number,
    camera: number,
    mask: number,
    dim: number,
    left: number,
    top: number,
    columns: number,
    rows: number,
    seed: number,
  ): void;
}

/** Bytes of one seat's shader. */
export const shaderBytes = (): number =>
  ((batchBytes(BATCH_CAPACITY) + 127) & ~127) +
  (MASK_WORDS + 2 * TABLE_FLOATS + (MATERIAL_FLOATS + CURVE_FLOATS) * MOST_MATERIALS) * 4 +
  SHADER_LIGHTS * (LIGHT_BYTES + GROUP_WORDS) +
  2 * DIM_BYTES +
  CAMERA_BYTES +
  FILM_ROOM * 4 +
  2 * Math.ceil(FILM_ROOM / 3) * 4 +
  8 +
  BATCH_CAPACITY * 2;

/** Addresses that a shader works on. */
export interface ShaderPlaces {
  rays: number;
  hits: number;
  shadowRays: number;
  blocked: number;
  /** Vertices as `writeVertices` has them, and the corners and material of each triangle. */
  vertices: number;
  corners: number;
  /** `LIT_COLUMNS` bytes for each of so many objects; none: it is not said which object a triangle belongs to. */
  lit: number;
  objects: number;
}

/** Floats of one vertex and words of one triangle, as assembly/shade/stand.ts reads them. */
export const VERTEX_FLOATS = 12;
export const CORNER_WORDS = 4;

/** Puts position, normal and colour of every vertex side by side, and with each triangle's corners its material. */
export function writeVertices(mesh: RayMesh, vertices: Float32Array, corners: Uint32Array): void {
  const { positions, indices } = mesh;
  const { normals, colours, triangleMaterial } = mesh.shading!;
  for (let i = 0, o = 0; i < positions.length; i += 3, o += VERTEX_FLOATS) {
    for (let k = 0; k < 3; k++) {
      vertices[o + k] = positions[i + k]!;
      vertices[o + 4 + k] = normals[i + k]!;
      vertices[o + 8 + k] = colours[i + k]!;
    }
  }
  for (let i = 0, c = 0; i < triangleMaterial.length; i++, c += CORNER_WORDS) {
    corners[c] = indices[i * 3]!;
    corners[c + 1] = indices[i * 3 + 1]!;
    corners[c + 2] = indices[i * 3 + 2]!;
    corners[c + 3] = triangleMaterial[i]!;
  }
}

/** Of every material the pairs of the albedo tables (32 × 32 of A and B) at its own roughness, over the cosine. */
function writeCurves(materials: Float32Array, pairs: Float32Array, curves: Float32Array): void {
  for (let m = 0, c = 0; m < materials.length; m += MATERIAL_FLOATS) {
    const row = Math.min(1, Math.max(0, materials[m + 4]!)) * 31,
      j = Math.min(30, Math.floor(row)),
      f = row - j;
    for (let i = j * CURVE_FLOATS; i < (j + 1) * CURVE_FLOATS; i++) curves[c++] = pairs[i]! + (pairs[i + CURVE_FLOATS]! - pairs[i]!) * f;
  }
}

/** A shader over a block of the kernel's memory. */
export function makeShader(run: ShadeExports, buffer: ArrayBufferLike, block: number, places: ShaderPlaces): Shader {
  const capacity = BATCH_CAPACITY,
    stride = batchStride(capacity);
  const { fields, waiting } = batchArrays(capacity, buffer, block);
  const mask = (block + batchBytes(capacity) + 127) & ~127;
  const table = mask + MASK_WORDS * 4,
    materials = table + 2 * TABLE_FLOATS * 4,
    curves = materials + MATERIAL_FLOATS * MOST_MATERIALS * 4,
    lights = curves + CURVE_FLOATS * MOST_MATERIALS * 4,
    groups = lights + SHADER_LIGHTS * LIGHT_BYTES,
    dims = groups + SHADER_LIGHTS * GROUP_WORDS,
    cameraAt = dims + 2 * DIM_BYTES,
    films = cameraAt + CAMERA_BYTES,
    before = films + FILM_ROOM * 4,
    squares = before + Math.ceil(FILM_ROOM / 3) * 4,
    left = (squares + Math.ceil(FILM_ROOM / 3) * 4 + 7) & ~7;
  const waitingAt = block + BATCH_FIELDS.length * stride;
  const dimWords = new Int32Array(buffer, dims, 12);
  const groupFloats = new Float32Array(buffer, groups, (SHADER_LIGHTS / 4) * GROUP_WORDS),
    groupWords = new Int32Array(buffer, groups, (SHADER_LIGHTS / 4) * GROUP_WORDS);
  let rectangles = 0,
    columns = 0;
  const setDimension = (at: number, d: ShaderDimension) => {
    dimWords[at] = d.a;
    dimWords[at + 1] = d.b;
    dimWords[at + 2] = d.ax;
    dimWords[at + 3] = d.ay;
    dimWords[at + 4] = d.bx;
    dimWords[at + 5] = d.by;
  };
  return {
    capacity,
    fields,
    waiting,
    films: new Float32Array(buffer, films, FILM_ROOM),
    left: new Uint16Array(buffer, left, capacity),
    setTables(words, tableA, tableB) {
      new Uint32Array(buffer, mask, MASK_WORDS).set(words);
      const pairs = new Float32Array(buffer, table, 2 * TABLE_FLOATS);
      for (let i = 0; i < TABLE_FLOATS; i++) {
        pairs[i * 2] = tableA[i]!;
        pairs[i * 2 + 1] = tableB[i]!;
      }
    },
    setMaterials(values) {
      if (values.length > MATERIAL_FLOATS * MOST_MATERIALS) return false;
      new Float32Array(buffer, materials, values.length).set(values);
      writeCurves(values, new Float32Array(buffer, table, 2 * TABLE_FLOATS), new Float32Array(buffer, curves, values.length * 4));
      return true;
    },
    clearRectangles() {
      rectangles = columns = 0;
      // a rectangle without a normal is met by no ray: those that fill the last group up
      groupFloats.fill(0);
    },
    setRectangle(slot, floats, lit) {
      new Float32Array(buffer, lights + slot * LIGHT_BYTES, floats.length).set(floats);
      if (lit === 'none' || (lit !== 'all' && (lit.length > places.objects || columns === LIT_COLUMNS))) return false;
      let column = 0;
      if (lit !== 'all') {
        column = places.lit + columns++;
        const table = new Uint8Array(buffer, column, (lit.length - 1) * LIT_COLUMNS + 1);
        for (let o = 0; o < lit.length; o++) table[o * LIT_COLUMNS] = lit[o]!;
      }
      new Uint32Array(buffer, lights + slot * LIGHT_BYTES + LIT_AT, 1)[0] = column;
      const at = (rectangles >> 2) * GROUP_WORDS + (rectangles & 3);
      floats.forEach((v, k) => (groupFloats[at + k * 4] = v));
      groupWords[at + floats.length * 4] = slot;
      rectangles++;
      return true;
    },
    cameraRays(camera, tile, d, seed) {
      new Float32Array(buffer, cameraAt, 16).set(camera);
      setDimension(0, d);
      run.cameraRays(block, stride, places.rays, cameraAt, mask, dims, tile.x, tile.y, tile.width, tile.height, seed);
      return tile.width * tile.height;
    },
    aimRectangle(slot, count, d) {
      setDimension(0, d);
      run.aimRectangle(block, stride, count, lights + slot * LIGHT_BYTES, mask, dims);
    },
    meetRectangles: (count, size, second, bounces) =>
      run.meetRectangles(block, stride, count, groups, rectangles, lights, places.rays, places.hits, films, size, second, bounces, left),
    lightPlain: (count, begin, lastDepth, alone) =>
      run.lightPlain(block, stride, count, table, waitingAt, places.shadowRays, begin, lastDepth, alone ? 1 : 0),
    addUnblocked: (film, second, count) => run.addUnblocked(block, stride, waitingAt, places.blocked, films + film * 4, second, count),
    stand: (count, lastDepth) =>
      run.stand(block, stride, count, places.rays, places.hits, places.vertices, places.corners, materials, curves, lastDepth),
    scatterPlain(count, choices, directions, lastDepth) {
      setDimension(0, choices);
      setDimension(6, directions);
      run.scatterPlain(block, stride, count, mask, dims, table, lastDepth);
    },
    depart: (count) => run.depart(block, stride, count, places.rays),
    addSquares: (floats) => run.addSquares(films, before, squares, floats / 3),
    beginSquares(floats) {
      new Float32Array(buffer, before, floats / 3).fill(0);
      return new Float32Array(buffer, squares, floats / 3).fill(0);
    },
  };
}
