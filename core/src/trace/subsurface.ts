// Skin: at the first vertex that the camera sees, diffuse light goes in there and comes out nearby. There the path is split (Arvo, Kirk
// 1990, "Particle Transport and Image Synthesis"): what is reflected there and several exits are all lit, and one of them goes on.
import type { RayKernel } from '@plinket/kernel';
import { dimension, maskWords, openDimension, shiftedA, shiftedB } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { INSIDE, stepKey } from './dimensions.ts';
import type { HitCache } from './hit-cache.ts';
import { ACROSS, ACROSS_ALONE, ACROSS_TRIED, EXITS, makeProbes, sendProbes, takeAlone, type Probes } from './probes.ts';

/** Distance in the blue-noise mask, 64 wide, between exits of one path: far away in both directions. */
const OWN_CELL = 23 * 64 + 27;

/** Paths that a batch has room for when the paths of so many pixels are split. */
export const roomToSplit = (capacity: number, pixels: number): boolean => pixels * (1 + EXITS) <= capacity;

const choices = dimension();

/** Splits paths where light goes into a surface, over one geometry. */
export class Depth {
  private readonly geometry: SceneGeometry;
  private readonly batch: Batch;
  private readonly probes: Probes;
  /** Paths that stay, by how much each counts should it go on (0: it does not), how many, and where their exits begin. */
  private readonly parents: Int32Array;
  private readonly counts: Float64Array;
  private splits = 0;
  private firstExit = 0;

  constructor(batch: Batch, geometry: SceneGeometry) {
    this.geometry = geometry;
    this.batch = batch;
    this.probes = makeProbes(batch.capacity, geometry.materials);
    this.parents = new Int32Array(batch.capacity);
    this.counts = new Float64Array(batch.capacity);
  }

  /**
   * Sends the diffuse light of first vertices with depth to where it comes out. Each such path stays for what is reflected there, and its
   * exits come behind the paths that there were, for the diffuse lobe alone. Unless they are to be `split` paths do one or the other,
   * weighed for the choice. Answers how many paths there are now, and the probe rays.
   */
  comeOut(
    kernel: RayKernel,
    cache: HitCache,
    count: number,
    sample: number,
    key: { step: number; seed: number },
    split: boolean,
  ): { count: number; rays: number } {
    const { batch, probes, geometry } = this;
    const f = batch.fields;
    const mask = maskWords();
    openDimension(choices, sample, stepKey(key.seed, key.step, INSIDE));
    this.splits = 0;
    this.firstExit = count;
    let n = 0;
    for (let i = 0; i < count; i++) {
      if (f.pass[i] !== OPAQUE || f.depth[i] !== 0 || f.label[i] !== UNSCATTERED) continue;
      const { subsurface } = geometry.materials[f.material[i]!]!;
      if (subsurface <= 0) continue;
      const cell = f.cell[i]!,
        stays = staying(f.chance[i]!, subsurface);
      const chosen = choose(shiftedA(choices, mask, cell), stays);
      for (let exit = 0; exit < EXITS; exit++) {
        const lit = split && (exit !== ACROSS || shiftedB(choices, mask, cell) < ACROSS_TRIED);
        if (!lit && exit !== chosen) continue;
        probes.path[n] = i;
        probes.exit[n] = exit;
        // each exit has points of its own in every dimension
        probes.cell[n] = (cell + (exit + 1) * OWN_CELL) & 4095;
        probes.lit[n] = lit ? 1 : 0;
        probes.counts[n++] = exit === chosen ? 1 / (1 - stays) : 0;
      }
      if (!split && chosen >= 0) continue;
      this.counts[this.splits] = chosen < 0 ? 1 / stays : 0;
      this.parents[this.splits++] = i;
    }
    const out = sendProbes(batch, kernel, cache, geometry, probes, n, sample, key, split ? count : undefined);
    for (let at = 0; at < this.splits; at++) this.stay(this.parents[at]!);
    if (split) return out;
    this.goOn(count, 0);
    this.splits = 0;
    return { count, rays: out.rays };
  }

  /** Of what was split one goes on, weighed for the choice; all others have been lit and end. */
  goOn(count: number, lastDepth: number): void {
    const { parents, counts } = this;
    const { tr, tg, tb, depth } = this.batch.fields;
    for (let at = 0; at < this.splits; at++) {
      const i = parents[at]!,
        k = counts[at]!;
      tr[i] = tr[i]! * k;
      tg[i] = tg[i]! * k;
      tb[i] = tb[i]! * k;
      if (k === 0) depth[i] = lastDepth;
    }
    for (let j = this.firstExit; j < count; j++) {
      takeAlone(this.batch, this.probes, j);
      if (tr[j] === 0 && tg[j] === 0 && tb[j] === 0) depth[j] = lastDepth;
    }
  }

  /** What stays where it is: the sharp lobes, and the part of the diffuse light that does not go in. */
  private stay(i: number): void {
    const f = this.batch.fields;
    const { subsurface } = this.geometry.materials[f.material[i]!]!,
      part = 1 - subsurface;
    f.chance[i] = f.chance[i]! / staying(f.chance[i]!, subsurface);
    f.dr[i] = f.dr[i]! * part;
    f.dg[i] = f.dg[i]! * part;
    f.db[i] = f.db[i]! * part;
  }
}

/** Chance that a path stays where it is: for a sharp lobe, or for the part of the diffuse light that does not go in. */
const staying = (sharp: number, subsurface: number): number => 1 - (1 - sharp) * subsurface;

/** Which exit a path goes on from, by a number of 0…1: −1 for none, it stays. */
function choose(choice: number, stays: number): number {
  if (choice < stays) return -1;
  const inside = (choice - stays) / (1 - stays);
  if (inside < ACROSS_ALONE) return ACROSS;
  return Math.min(ACROSS - 1, Math.floor(((inside - ACROSS_ALONE) / (1 - ACROSS_ALONE)) * ACROSS));
}
