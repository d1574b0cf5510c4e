import { placeOf, headAround, clamp, LIMITS, type Patch, type Setup, type Vec3, flagPatch, lightPatch, round } from '@plinket/core';
import { bodiesOf } from './bodies.ts';

/** What the handles hold. */
export type Grip = { kind: 'light' | 'flag' | 'subject'; id: string } | { kind: 'camera' } | undefined;

const rounded = (p: Vec3): Vec3 => p.map((v) => round(v, 3)) as Vec3;

/** Where what is held stands; nothing for what does not stand anywhere, or is locked. */
export function gripPoint(setup: Setup, grip: Grip): Vec3 | undefined {
  if (!grip) return undefined;
  switch (grip.kind) {
    case 'camera':
      return setup.camera.locked ? undefined : setup.camera.position;
    case 'subject':
      return setup.subjects.items[grip.id]?.position;
    default: {
      const body = bodiesOf(setup).find((b) => b.what === grip.kind && b.id === grip.id);
      return body && !body.locked ? body.centre : undefined;
    }
  }
}

/** What moving it to a point changes. A light keeps its aim. */
export function gripPatch(setup: Setup, grip: NonNullable<Grip>, to: Vec3): Patch {
  switch (grip.kind) {
    case 'camera':
      return { camera: { position: rounded(to) } };
    case 'subject':
      return { subjects: { items: { [grip.id]: { position: rounded(to) } } } };
    default: {
      const { azimuth, elevation, distance } = placeOf(
        headAround(setup, (grip.kind === 'light' ? setup.lights : setup.flags).items[grip.id]!),
        to,
      );
      const place = { azimuth: round(azimuth, 1), elevation: round(elevation, 1), distance: round(clamp(distance, LIMITS.distance), 3) };
      return grip.kind === 'light' ? lightPatch(grip.id, { place }) : flagPatch(grip.id, { place });
    }
  }
}
