// Which surfaces a light lights and which stop its light, by the number of their object.
import type { RayKernel } from '@plinket/kernel';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { isReached, type ReachCollection } from '../setup/index.ts';
import { UNSCATTERED, type Batch } from './batch.ts';

/** One byte for each object of a geometry: 1 where the light lights it, and where it casts the light's shadow. Nothing: all do. */
export interface ReachTables {
  lights?: Uint8Array;
  casts?: Uint8Array;
}

/** What a light's reach says of the objects of a geometry. */
export function reachTables({ reach }: SceneLight, { objects }: SceneGeometry): ReachTables {
  const table = (of: ReachCollection) => Uint8Array.from(objects, (o) => (isReached(of, o) ? 1 : 0));
  return {
    ...(reach?.lights ? { lights: table(reach.lights) } : {}),
    ...(reach?.casts ? { casts: table(reach.casts) } : {}),
  };
}

/** Whether the walk leaves a light to its samples: where shadows are bent a ray that met it would not know of them. */
export const isAlone = ({ bent, reach }: SceneLight): boolean => bent !== undefined || reach?.casts !== undefined;

/** Takes back the light samples of surface points that the light does not light. */
export function takeBack(batch: Batch, { triangleObject }: SceneGeometry, lights: Uint8Array, count: number): void {
  const { triangle, lw } = batch.fields;
  for (let i = 0; i < count; i++) if (lights[triangleObject[triangle[i]!]!] === 0) lw[i] = 0;
}

/**
 * Remembers which object each path left last, so that a light which its ray then meets knows whether it lights that one. What goes straight
 * through something clear has not left it.
 */
export class Origins {
  /** Object that each path left; any number for a path that the camera sent. */
  private readonly left: Uint16Array;
  /** 1 where the surface point lets its path go straight on. */
  readonly straight: Uint8Array;
  private readonly hidden: Int32Array;
  private readonly throughput: Float32Array;
  private readonly geometry: SceneGeometry;

  /** @param left room for it, where a kernel asks too */
  constructor(capacity: number, geometry: SceneGeometry, left: Uint16Array = new Uint16Array(capacity)) {
    this.left = left;
    this.straight = new Uint8Array(capacity);
    this.hidden = new Int32Array(capacity);
    this.throughput = new Float32Array(capacity * 3);
    this.geometry = geometry;
  }

  /** Paths that met nothing, or end, drop out and the others close up, as they do when they come to stand on what they met. */
  stand({ hitIds }: RayKernel, { fields: { depth } }: Batch, count: number, lastDepth: number): void {
    const { left } = this;
    let n = 0;
    for (let i = 0; i < count; i++) if (hitIds[i * 4 + 3]! >= 0 && depth[i]! <= lastDepth) left[n++] = left[i]!;
  }

  /** Paths leave their surface points; those that end drop out. */
  leave({ fields: { lw, triangle } }: Batch, count: number): void {
    const { left, straight, geometry } = this;
    let n = 0;
    for (let i = 0; i < count; i++) {
      if (lw[i] === 0) continue;
      left[n++] = straight[i] ? left[i]! : geometry.triangleObject[triangle[i]!]!;
    }
  }

  /** Does something with the throughput of paths as nothing that left what `lights` says is not lit, and puts it back. */
  without({ fields: { label, tr, tg, tb } }: Batch, lights: Uint8Array, count: number, run: () => void): void {
    const { left, hidden, throughput } = this;
    let n = 0;
    for (let i = 0; i < count; i++) {
      if (label[i] === UNSCATTERED || lights[left[i]!] !== 0) continue;
      hidden[n] = i;
      throughput[n * 3] = tr[i]!;
      throughput[n * 3 + 1] = tg[i]!;
      throughput[n * 3 + 2] = tb[i]!;
      tr[i] = tg[i] = tb[i] = 0;
      n++;
    }
    run();
    for (let k = 0; k < n; k++) {
      const i = hidden[k]!;
      tr[i] = throughput[k * 3]!;
      tg[i] = throughput[k * 3 + 1]!;
      tb[i] = throughput[k * 3 + 2]!;
    }
  }
}
