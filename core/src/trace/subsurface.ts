// Skin: at the first vertex that the camera sees, diffuse light goes in there and comes out nearby. There the path is split (Arvo, Kirk
// 1990, "Particle Transport and Image Synthesis"): what is reflected there and several exits are all lit, and one of them goes on.
import type { RayKernel } from '@plinket/kernel';
import { dimension, maskWords, openDimension, shiftedA, shiftedB } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { INSIDE, stepKey } from './dimensions.ts';
import { takeAlone } from './exits.ts';
import type { HitCache } from './hit-cache.ts';
import { ACROSS, ACROSS_ALONE, acrossOf, EXITS, makeProbes, type Probes } from './probes.ts';
import { sendProbes } from './send-probes.ts';

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
  /** Paths that were split, the chance of each to go on where it is, the number of 0…1 that says it, and where their exits begin. */
  private readonly parents: Int32Array;
  private readonly chances: Float64Array;
  private readonly choices: Float64Array;
  private splits = 0;
  private firstExit = 0;

  constructor(batch: Batch, geometry: SceneGeometry) {
    this.geometry = geometry;
    this.batch = batch;
    this.probes = makeProbes(batch.capacity, geometry);
    this.parents = new Int32Array(batch.capacity);
    this.chances = new Float64Array(batch.capacity);
    this.choices = new Float64Array(batch.capacity);
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
      const tried = acrossOf(probes, geometry, f.triangle[i]!),
        choice = shiftedA(choices, mask, cell),
        chosen = split ? -1 : choose(choice, stays);
      for (let exit = 0; exit < EXITS; exit++) {
        if (split ? exit === ACROSS && shiftedB(choices, mask, cell) >= tried : exit !== chosen) continue;
        probes.path[n] = i;
        probes.exit[n] = exit;
        // each exit has points of its own in every dimension
        probes.cell[n] = (cell + (exit + 1) * OWN_CELL) & 4095;
        probes.tried[n++] = tried;
      }
      if (split) {
        this.parents[this.splits] = i;
        this.chances[this.splits] = stays;
        this.choices[this.splits++] = choice;
      } else {
        if (chosen < 0) this.stay(i);
        this.weigh(i, chosen < 0 ? 1 / stays : 1 / (1 - stays));
      }
    }
    const out = sendProbes(batch, kernel, cache, geometry, probes, n, sample, key, split ? count : undefined);
    for (let at = 0; at < this.splits; at++) this.stay(this.parents[at]!);
    return { count: split ? out.count : count, rays: out.rays };
  }

  /**
   * Of what was split one goes on, weighed for the choice; all others have been lit and end. Among the exits it is one by the light that comes
   * out there (Talbot, Cline, Egbert 2005, "Importance Resampling for Global Illumination").
   */
  goOn(count: number, lastDepth: number): void {
    const { depth } = this.batch.fields,
      { from, alone } = this.probes;
    let j = this.firstExit;
    for (let at = 0; at < this.splits; at++) {
      const i = this.parents[at]!,
        stays = this.chances[at]!,
        choice = this.choices[at]!,
        here = choice < stays;
      if (here) this.weigh(i, 1 / stays);
      else depth[i] = lastDepth;
      const first = j;
      let all = 0;
      for (; j < count && from[j] === i; j++) {
        all += alone[j * 3]! + alone[j * 3 + 1]! + alone[j * 3 + 2]!;
        depth[j] = lastDepth;
      }
      if (here || !(all > 0)) continue;
      const wanted = ((choice - stays) / (1 - stays)) * all;
      let taken = first,
        own = 0;
      for (let sum = 0, k = first; k < j && sum <= wanted; k++) {
        own = alone[k * 3]! + alone[k * 3 + 1]! + alone[k * 3 + 2]!;
        sum += own;
        taken = k;
      }
      takeAlone(this.batch, this.probes, taken, all / own / (1 - stays));
      depth[taken] = 0;
    }
  }

  private weigh(i: number, k: number): void {
    const { tr, tg, tb } = this.batch.fields;
    tr[i] = tr[i]! * k;
    tg[i] = tg[i]! * k;
    tb[i] = tb[i]! * k;
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
