import { inOrder, isPlaced, type Kit, type Light } from '@plinket/core';
import { colourOf } from '../parts/identity.ts';

/** Side of the paper, and how far out, in metres at the reference head, its edge lies. */
const SIDE = 84,
  OUT = 2.6;
/** Far lights are drawn nearer: what matters is the side from which they come. */
const outOf = (metres: number): number => (SIDE / 2) * Math.min(0.92, 0.16 + 0.76 * Math.sqrt(metres / OUT));
const wideOf = (light: Light): number => {
  const of = light as { width?: number; diameter?: number; length?: number };
  return Math.max(3, Math.min(30, ((of.width ?? of.length ?? of.diameter ?? 0.1) / OUT) * (SIDE / 2) * 1.4));
};

/** A kit's lights from above, the camera below: nothing is traced for it. */
export function KitPlan({ kit }: { kit: Kit }) {
  const { rig, stage, cameras } = kit.parts;
  const lights = rig ? inOrder(rig.lights) : [];
  return (
    <svg
      width={SIDE}
      height={SIDE}
      viewBox={`${-SIDE / 2} ${-SIDE / 2} ${SIDE} ${SIDE}`}
      className="shrink-0 rounded bg-base-300"
      aria-hidden
    >
      {stage && stage.stage.kind !== 'none' && (
        <path
          d={`M ${-SIDE / 2 + 6} ${-SIDE / 2 + 7} H ${SIDE / 2 - 6}`}
          className="stroke-base-content/50"
          strokeWidth={stage.stage.kind === 'floor' ? 1 : 3}
          strokeDasharray={stage.stage.kind === 'floor' ? '2 3' : undefined}
        />
      )}
      {cameras && <path d={`M -4 ${SIDE / 2 - 5} L 0 ${SIDE / 2 - 13} L 4 ${SIDE / 2 - 5} Z`} className="fill-base-content/60" />}
      {lights.map((light, i) => {
        if (!isPlaced(light))
          return <circle key={i} r={SIDE / 2 - 4} fill="none" stroke={colourOf(i)} strokeDasharray="1 4" opacity={light.on ? 0.9 : 0.3} />;
        const { azimuth, elevation, distance } = light.place;
        const out = outOf(distance * Math.cos((elevation * Math.PI) / 180));
        return (
          <rect
            key={i}
            x={-wideOf(light) / 2}
            y={out - 1.5}
            width={wideOf(light)}
            height={3}
            fill={colourOf(i)}
            opacity={light.on ? 1 : 0.3}
            // the subject looks down at the camera, its left on the paper's right
            transform={`rotate(${-azimuth})`}
          />
        );
      })}
      <ellipse rx={5} ry={6.5} className="fill-base-content/80" />
      <path d="M -1.5 6 L 0 9 L 1.5 6 Z" className="fill-base-content/80" />
    </svg>
  );
}
