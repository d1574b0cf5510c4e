// The hot half of shading: plain opaque surfaces under rectangle lights, over a batch of paths in the kernel's memory.
// What is rarer (coats, sheen, fibres, pictures, clear surfaces, other lights) is left to the host, which also has a twin of
// all of this (core/src/trace).
export * from './camera';
export * from './light';
export * from './rectangle';
export * from './scatter';
export * from './stand';
