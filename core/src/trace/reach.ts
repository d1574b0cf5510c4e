// Which surfaces a light lights and which stop its light, by the number of their object.
import type { RayKernel } from '@plinket/kernel';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import type { Vec3 } from '../math/index.ts';
import { isReached, pairShadowOf, type ObjectRef, type ReachCollection } from '../setup/index.ts';
import { UNSCATTERED, type Batch } from './batch.ts';
import { HiddenPaths } from './hidden.ts';

/** One byte for each object of a geometry: 1 where the light lights it, and where it casts the light's shadow. Nothing: all do. */
export interface ReachTables {
  lights?: Uint8Array;
  casts?: Uint8Array;
  /** Whose shadow is less than whole: objects whose shadow leaves the same, red green blue; and who stops all. */
  partial?: { groups: { table: Uint8Array; stays: Vec3 }[]; whole: Uint8Array };
}

/** What a light's reach says of the objects of a geometry. */
export function reachTables({ reach }: SceneLight, { objects }: SceneGeometry): ReachTables {
  const table = (of: ReachCollection) => Uint8Array.from(objects, (o) => (isReached(of, o) ? 1 : 0));
  return {
    ...(reach?.lights ? { lights: table(reach.lights) } : {}),
    ...(reach?.casts ? { casts: table(reach.casts) } : {}),
    ...(reach?.shadows ? { partial: partialOf(reach, objects) } : {}),
  };
}

/** Objects by what their shadow leaves of a light, and those that stop all of it. */
function partialOf(
  { shadows, casts }: NonNullable<SceneLight['reach']>,
  objects: readonly ObjectRef[],
): NonNullable<ReachTables['partial']> {
  const whole = new Uint8Array(objects.length),
    groups = new Map<string, { table: Uint8Array; stays: Vec3 }>();
  objects.forEach((object, o) => {
    if (!isReached(casts, object)) return;
    const { density, colour } = pairShadowOf(shadows, object);
    const stays = colour.map((v) => 1 - density + density * v) as Vec3;
    if (stays.every((v) => v === 0)) {
      whole[o] = 1;
      return;
    }
    const key = stays.join();
    const group = groups.get(key) ?? { table: new Uint8Array(objects.length), stays };
    groups.set(key, group);
    group.table[o] = 1;
  });
  return { groups: [...groups.values()], whole };
}

/** Whether the walk leaves a light to its samples: where shadows are bent a ray that met it would not know of them. */
export const isAlone = ({ bent, reach }: SceneLight): boolean =>
  bent !== undefined || reach?.casts !== undefined || reach?.shadows !== undefined;

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
  private readonly geometry: SceneGeometry;
  private readonly hidden: HiddenPaths;

  /** @param left room for it, where a kernel asks too */
  constructor(batch: Batch, geometry: SceneGeometry, left: Uint16Array = new Uint16Array(batch.capacity)) {
    this.left = left;
    this.straight = new Uint8Array(batch.capacity);
    this.hidden = new HiddenPaths(batch);
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

  /** Hides the paths that left what `lights` says is not lit, until `show`. */
  hide({ fields: { label } }: Batch, lights: Uint8Array, count: number): void {
    for (let i = 0; i < count; i++) if (label[i] !== UNSCATTERED && lights[this.left[i]!] === 0) this.hidden.hide(i);
  }

  show(): void {
    this.hidden.show();
  }
}
