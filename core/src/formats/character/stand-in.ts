import { buildBall, buildLimb, buildRing, type MeshData } from '../../geometry/index.ts';
import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset, Part } from '../../scene/index.ts';
import { material } from '../../surface/index.ts';
import { finishCharacter } from './finish.ts';

/** What may stand on the stage until the character is ready. */
export const STAND_INS = ['figure', 'bust', 'ball', 'knot'] as const;
export type StandIn = (typeof STAND_INS)[number];

/** Grey of a sculptor's dummy. */
const DUMMY = material({ name: 'dummy', base: [0.42, 0.41, 0.4], roughness: 0.55 });

const part = (name: string, mesh: MeshData): Part => ({ name, ...mesh, material: DUMMY });
const both = (name: string, a: Vec3, b: Vec3, ra: number, rb: number): Part[] =>
  [1, -1].map((s) => part(`${name} ${s > 0 ? 'L' : 'R'}`, buildLimb([s * a[0], a[1], a[2]], [s * b[0], b[1], b[2]], ra, rb)));

/** A head 23 cm high with a nose, so that it has a front; its middle between the eyes at height y. */
function head(y: number): { parts: Part[]; landmarks: Record<string, Vec3> } {
  const skull = buildBall([0, y, 0], 0.115, 48);
  for (let i = 0; i < skull.positions.length; i += 3) {
    const dy = skull.positions[i + 1]! - y;
    // narrower than high, and towards the chin narrower still
    const k = 0.68 + 0.1 * Math.max(-0.6, Math.min(0.3, dy / 0.115));
    skull.positions[i] = skull.positions[i]! * k;
    skull.positions[i + 2] = skull.positions[i + 2]! * 0.84;
  }
  return {
    parts: [part('head', skull), part('nose', buildLimb([0, y - 0.002, 0.088], [0, y - 0.036, 0.106], 0.007, 0.013))],
    landmarks: {
      pupilL: [0.031, y, 0.09],
      pupilR: [-0.031, y, 0.09],
      crown: [0, y + 0.115, 0],
      chinBottom: [0, y - 0.115, 0.02],
      noseTip: [0, y - 0.036, 0.119],
    },
  };
}

/** A stand-in as a character of its own, 1.7 m or as high as a bust on its stool, with landmarks where it has a head. */
export function standIn(kind: StandIn): CharacterAsset {
  switch (kind) {
    case 'figure': {
      const { parts, landmarks } = head(1.585);
      return finishCharacter(
        'Stand-in figure',
        [
          ...parts,
          part('neck', buildLimb([0, 1.4, -0.015], [0, 1.5, 0], 0.055, 0.05)),
          part('chest', buildLimb([0, 1.16, -0.01], [0, 1.3, -0.01], 0.135, 0.165, 0.72)),
          part('hips', buildLimb([0, 0.92, -0.01], [0, 1.06, -0.01], 0.155, 0.125, 0.75)),
          ...both('upper arm', [0.2, 1.36, -0.01], [0.25, 1.08, -0.02], 0.055, 0.042),
          ...both('forearm', [0.25, 1.08, -0.02], [0.275, 0.84, 0.03], 0.042, 0.03),
          ...both('hand', [0.277, 0.8, 0.035], [0.282, 0.72, 0.045], 0.036, 0.026),
          ...both('thigh', [0.085, 0.9, -0.01], [0.095, 0.5, 0], 0.088, 0.058),
          ...both('shin', [0.095, 0.5, 0], [0.098, 0.1, -0.02], 0.058, 0.038),
          ...both('foot', [0.098, 0.04, -0.035], [0.108, 0.032, 0.13], 0.04, 0.032),
        ],
        landmarks,
        [],
      );
    }
    case 'bust': {
      const { parts, landmarks } = head(1.35);
      return finishCharacter(
        'Stand-in bust',
        [
          ...parts,
          part('neck', buildLimb([0, 1.15, -0.015], [0, 1.26, 0], 0.058, 0.052)),
          part('shoulders', buildLimb([-0.16, 1.1, -0.02], [0.16, 1.1, -0.02], 0.075, 0.075)),
          part('chest', buildLimb([0, 0.98, -0.02], [0, 1.06, -0.02], 0.12, 0.165, 0.72)),
        ],
        landmarks,
        [],
      );
    }
    case 'ball':
      return finishCharacter(
        'Stand-in ball',
        [part('ball', buildBall([0, 1.585, 0], 0.115, 48)), part('stick', buildLimb([0, 0.012, 0], [0, 1.47, 0], 0.012, 0.012))],
        { pupilL: [0.031, 1.585, 0.111], pupilR: [-0.031, 1.585, 0.111], crown: [0, 1.7, 0], chinBottom: [0, 1.47, 0] },
        [],
      );
    case 'knot': {
      // a (2, 3) torus knot: forms that turn every way, to see what a light does to edges and hollows
      const at = (t: number): Vec3 => {
        const p = 2 * Math.PI * t,
          r = 0.2 + 0.09 * Math.cos(3 * p);
        return [r * Math.cos(2 * p), 1.35 + r * Math.sin(2 * p), 0.09 * Math.sin(3 * p)];
      };
      return finishCharacter(
        'Stand-in knot',
        [part('knot', buildRing(at, 0.045, 240))],
        { pupilL: [0.031, 1.35, 0.1], pupilR: [-0.031, 1.35, 0.1], crown: [0, 1.465, 0], chinBottom: [0, 1.235, 0] },
        [],
      );
    }
  }
}
