export { attachKernel, buildAccel, compileKernel, type BuildOptions, type WasmAccel } from './wasm.ts';
export { plainKernel } from './plain.ts';
export { checkMesh, MAX_TRIANGLES, MeshError, type MeshErrorCode, type RayKernel, type RayMesh } from './types.ts';
