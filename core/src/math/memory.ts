/** Floats that threads can share without a copy, where the platform allows it; else ordinary ones. */
export function sharedFloats(length: number): Float32Array {
  return typeof SharedArrayBuffer === 'undefined' ? new Float32Array(length) : new Float32Array(new SharedArrayBuffer(length * 4));
}

/** Likewise for 32-bit integers. */
export function sharedInts(length: number): Uint32Array {
  return typeof SharedArrayBuffer === 'undefined' ? new Uint32Array(length) : new Uint32Array(new SharedArrayBuffer(length * 4));
}
