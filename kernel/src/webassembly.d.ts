// The part of the WebAssembly interface that the kernel uses; this room compiles without DOM and Node types.
declare namespace WebAssembly {
  class Module {
    constructor(bytes: ArrayBuffer);
  }
  class Memory {
    constructor(descriptor: { initial: number; maximum?: number; shared?: boolean });
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
