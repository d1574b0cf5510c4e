// Rays against triangles: a 4-wide bounding volume hierarchy with 4-triangle packets in SIMD.
//
// The module owns no memory: every address comes from the host (see ../src/wasm.ts), so that several threads can
// walk one hierarchy in one shared memory, each with its own block of rays and its own stack.
export * from './build';
export * from './walk';
export * from './shade/index';
