export { attachKernel, buildAccel, compileKernel, rebuild, type BuildOptions, type WasmAccel } from './wasm.ts';
export { plainKernel } from './plain.ts';
export { developPlain, plainFilmMath } from './plain-film.ts';
export { halfOfBits, halfToFloat, plainStored } from './plain-stored.ts';
export type { StoredMath, StoredRow, StoredType } from './stored.ts';
export { Arena, type Block } from './arena.ts';
export {
  CURVE_STEPS,
  CURVE_TOP,
  DEVELOP_CUBE,
  DEVELOP_CURVE,
  DEVELOP_LUMINANCE,
  DEVELOP_NEUTRAL,
  simdFilmMath,
  TAPS,
  type CatcherPlanes,
  type DevelopKind,
  type DevelopTables,
  type FilmMath,
  type PlaneShape,
  type Size,
} from './film.ts';
export { checkMesh, MAX_TRIANGLES, MeshError, type MeshErrorCode, type MeshPart, type RayMesh } from './mesh.ts';
export type { RayKernel } from './types.ts';
export { batchArrays, WAITING_FLOATS, type BatchArrays } from './batch.ts';
export { FILM_ROOM, SHADER_LIGHTS, type Shader, type ShaderDimension } from './shader.ts';
