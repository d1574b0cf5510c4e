import type { RayKernel } from '@plinket/kernel';

/** Samples of a pixel whose walk is remembered: those that a moved light is traced with first. */
const SAMPLES = 8;
/** Most memory for it, bytes. */
const BUDGET = 96 * 1024 * 1024;

interface Walk {
  /** Hits of every call of `closest`, in order. */
  calls: Float32Array[];
  /** Whether the ray that leaves the last vertex was followed too. */
  far: boolean;
}

/**
 * Remembers what the walk's rays met. The walk does not depend on the lights, so a light that is traced again over the same
 * view meets the same surfaces: its rays need not be traced a second time. Nothing in the result changes.
 */
export class HitCache {
  private readonly kernel: RayKernel;
  private readonly walks = new Map<string, Walk>();
  private view = '';
  private used = 0;
  private current: Walk | undefined;
  private replaying = false;
  private call = 0;

  constructor(kernel: RayKernel) {
    this.kernel = kernel;
  }

  /** Says what is looked at from now on; another view forgets everything. */
  look(view: string): void {
    if (view === this.view) return;
    this.view = view;
    this.walks.clear();
    this.used = 0;
  }

  /**
   * Begins the walk of one sample of one tile. Answers whether the ray from the last vertex must be followed: because this
   * walk wants it, or because the remembered one did.
   */
  begin(key: string, sample: number, far: boolean): boolean {
    this.call = 0;
    this.current = undefined;
    this.replaying = false;
    if (sample >= SAMPLES) return far;
    const known = this.walks.get(key);
    if (known && (known.far || !far)) {
      this.current = known;
      this.replaying = true;
      return known.far;
    }
    if (this.used < BUDGET) {
      if (known) this.used -= known.calls.reduce((n, c) => n + c.byteLength, 0);
      this.current = { calls: [], far };
      this.walks.set(key, this.current);
    }
    return far;
  }

  /** Nearest hits of the first `count` rays: remembered ones, or the kernel's. Answers the rays that were traced. */
  closest(count: number): number {
    const { kernel, current } = this;
    // a walk that ended early (nothing to light) is remembered as far as it went, and goes on from there
    const known = this.replaying ? current!.calls[this.call++] : undefined;
    if (known) {
      kernel.hits.set(known);
      return 0;
    }
    kernel.closest(count);
    if (current) {
      const hits = kernel.hits.slice(0, count * 4);
      current.calls.push(hits);
      this.used += hits.byteLength;
    }
    return count;
  }
}
