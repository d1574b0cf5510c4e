import type { Batch } from './batch.ts';

/** Paths whose throughput is nothing while lights are met that must not know of them. */
export class HiddenPaths {
  private readonly batch: Batch;
  private readonly paths: Int32Array;
  private readonly throughput: Float32Array;
  private count = 0;

  constructor(batch: Batch) {
    this.batch = batch;
    this.paths = new Int32Array(batch.capacity);
    this.throughput = new Float32Array(batch.capacity * 3);
  }

  /** Takes a path's throughput away. */
  hide(path: number): void {
    const { tr, tg, tb } = this.batch.fields;
    const at = this.count * 3;
    this.paths[this.count++] = path;
    this.throughput[at] = tr[path]!;
    this.throughput[at + 1] = tg[path]!;
    this.throughput[at + 2] = tb[path]!;
    tr[path] = tg[path] = tb[path] = 0;
  }

  /** Gives all of them back what was theirs. */
  show(): void {
    const { tr, tg, tb } = this.batch.fields;
    for (let k = 0; k < this.count; k++) {
      const path = this.paths[k]!;
      tr[path] = this.throughput[k * 3]!;
      tg[path] = this.throughput[k * 3 + 1]!;
      tb[path] = this.throughput[k * 3 + 2]!;
    }
    this.count = 0;
  }
}
