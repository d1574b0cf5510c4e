import {
  orderOf,
  add,
  cornerLine,
  DEGREE,
  roomLine,
  sweepProfile,
  turnY,
  type Prop,
  type Setup,
  type Vec3,
  ringStep,
  type Flat,
} from '@plinket/core';
import type { Paper } from './paper.ts';

/** Points of the paper, y up, as SVG wants them. */
export const points = (p: [number, number][]): string => p.map(([x, y]) => `${x.toFixed(3)},${(-y).toFixed(3)}`).join(' ');

/** Pixels between two rings, at least. */
const APART = 34;

/** Rings in metres and rays in degrees around the head. */
export function Rings({ flat, paper }: { flat: Flat; paper: Paper }) {
  const { px } = paper;
  const radius = Math.max(paper.halfW, paper.halfH),
    step = ringStep(APART * px);
  const nose = flat.project([
    flat.head.origin[0] + flat.head.z[0],
    flat.head.origin[1] + flat.head.z[1],
    flat.head.origin[2] + flat.head.z[2],
  ]);
  const zero = Math.atan2(nose[0], nose[1]);
  return (
    <g fill="none" stroke="oklch(40% 0 0)" strokeWidth={0.8 * px}>
      {Array.from({ length: Math.floor(radius / step) }, (_, i) => Number(((i + 1) * step).toPrecision(6))).map((r) => (
        <g key={r}>
          <circle r={r} />
          {/* on the left: over the right end of PLAN lie the buttons that choose its room */}
          <text x={-r * 0.7071 - 2 * px} y={-r * 0.7071} textAnchor="end" fontSize={8 * px} fill="oklch(62% 0 0)" stroke="none">
            {r} m
          </text>
        </g>
      ))}
      {Array.from({ length: 12 }, (_, i) => i * 30).map((deg) => {
        const a = zero - (deg * Math.PI) / 180;
        const long = deg % 90 === 0;
        return (
          <line
            key={deg}
            x1={Math.sin(a) * (long ? 14 : 46) * px}
            y1={-Math.cos(a) * (long ? 14 : 46) * px}
            x2={Math.sin(a) * radius}
            y2={-Math.cos(a) * radius}
            strokeOpacity={long ? 1 : 0.45}
          />
        );
      })}
    </g>
  );
}

/** The figure: in PLAN shoulders, head and nose from above; in SIDE head and neck in profile. To scale. */
export function Figure({ flat }: { flat: Flat }) {
  const { head } = flat;
  const h = head.headHeight;
  const at = (x: number, y: number, z: number): [number, number] =>
    flat.project([0, 1, 2].map((i) => head.origin[i]! + head.x[i]! * x * h + head.y[i]! * y * h + head.z[i]! * z * h) as Vec3);
  const ellipse = (cx: number, cy: number, cz: number, rx: number, ry: number, rz: number) =>
    points(
      Array.from({ length: 32 }, (_, i) => {
        const a = (i / 32) * Math.PI * 2;
        return flat.kind === 'plan'
          ? at(cx + rx * Math.cos(a), cy, cz + rz * Math.sin(a))
          : at(cx, cy + ry * Math.sin(a), cz + rz * Math.cos(a));
      }),
    );
  return flat.kind === 'plan' ? (
    <g fill="oklch(72% 0 0)">
      <polygon points={ellipse(0, -1, -0.55, 0.95, 0, 0.28)} fill="oklch(52% 0 0)" />
      <polygon points={ellipse(0, 0, -0.4, 0.33, 0, 0.42)} />
      <polygon points={points([at(-0.08, 0, -0.02), at(0.08, 0, -0.02), at(0, 0, 0.16)])} />
    </g>
  ) : (
    <g fill="oklch(72% 0 0)">
      <polygon
        points={points([at(0, -0.2, -0.6), at(0, -0.9, -0.95), at(0, -1.6, -0.9), at(0, -1.6, 0.1), at(0, -0.9, -0.15), at(0, -0.4, -0.2)])}
        fill="oklch(52% 0 0)"
      />
      <polygon points={ellipse(0, 0.02, -0.42, 0, 0.5, 0.42)} />
      <polygon points={points([at(0, 0.05, -0.04), at(0, -0.2, 0.14), at(0, -0.22, -0.04)])} />
    </g>
  );
}

/** Outline of a flight of steps: from above with the edges of its treads, from the side as its profile at both ends. */
function stepLines(prop: Extract<Prop, { kind: 'steps' }>, plan: boolean): Vec3[][] {
  const { width, tread, rise, count, position, turn } = prop;
  const at = (x: number, y: number, d: number): Vec3 => add(position, turnY([x, y, -d], turn * DEGREE));
  const w = width / 2,
    deep = count * tread;
  if (!plan)
    return [-w, w].map((x) => [
      ...Array.from({ length: count }, (_, k) => [at(x, k * rise, k * tread), at(x, (k + 1) * rise, k * tread)]).flat(),
      at(x, count * rise, deep),
      at(x, 0, deep),
    ]);
  const edges = Array.from({ length: count - 1 }, (_, k) => [at(-w, 0, (k + 1) * tread), at(w, 0, (k + 1) * tread)]);
  return [[at(-w, 0, 0), at(w, 0, 0), at(w, 0, deep), at(-w, 0, deep), at(-w, 0, 0)], ...edges];
}

/** The stage to scale: its line from above, or its profile. */
export function Backdrop({ flat, setup, px }: { flat: Flat; setup: Setup; px: number }) {
  const { stage, props } = setup;
  const { back, floor, width, front } = stage;
  const above = (line: [number, number, number, number][]): [number, number][] => line.map(([x, z]) => flat.project([x, 0, z]));
  const profile = (): [number, number][] => {
    if (stage.kind === 'floor') return [flat.project([0, floor, front]), flat.project([0, floor, -back])];
    const whole = sweepProfile(stage.kind === 'sweep' ? stage : { ...stage, fillet: 0 }).map(([z, y]) => flat.project([0, floor + y, z]));
    return stage.kind === 'flat' ? whole.slice(-2) : whole;
  };
  const plan = flat.kind === 'plan';
  const straight: [number, number, number, number][] = [
    [-width / 2, -back, 0, 1],
    [width / 2, -back, 0, 1],
  ];
  const line: [number, number][] =
    stage.kind === 'none'
      ? []
      : plan
        ? above(stage.kind === 'corner' ? cornerLine(stage) : stage.kind === 'room' ? roomLine(stage) : straight)
        : profile();
  return (
    <g fill="none" stroke="oklch(60% 0 0)" strokeWidth={1.1 * px}>
      {line.length > 0 && (
        <polyline points={points(line)} strokeDasharray={plan && stage.kind === 'floor' ? `${6 * px} ${5 * px}` : undefined} />
      )}
      {orderOf(props).map((id) => {
        const prop = props.items[id]!;
        if (!prop.visible) return null;
        if (prop.kind === 'steps')
          return (
            <g key={id}>
              {stepLines(prop, plan).map((corners, k) => (
                <polyline key={k} points={points(corners.map((p) => flat.project(p)))} />
              ))}
            </g>
          );
        const half = prop.kind === 'ball' ? prop.radius : prop.width / 2,
          tall = prop.kind === 'ball' ? 0 : prop.height;
        const [x, y] = flat.project(prop.position);
        if (plan || prop.kind === 'ball')
          return prop.kind === 'plinth' && prop.shape === 'square' ? (
            <rect key={id} x={x - half} y={-y - half} width={2 * half} height={2 * half} />
          ) : (
            <circle key={id} cx={x} cy={-y} r={half} />
          );
        return <rect key={id} x={x - half} y={-y - tall} width={2 * half} height={tall} />;
      })}
    </g>
  );
}

export function CameraMark({ flat, setup, paper }: { flat: Flat; setup: Setup; paper: Paper }) {
  const { halfW, halfH, px: size } = paper,
    edge = 7 * size;
  const [x, y] = flat.project(setup.camera.position);
  // a camera further than the paper stands at its edge
  const k = Math.min(1, (halfW - edge) / Math.max(1e-6, Math.abs(x)), (halfH - edge) / Math.max(1e-6, Math.abs(y)));
  const [px, py] = [x * k, y * k];
  const turn = flat.kind === 'plan' ? 0 : 90;
  return (
    <g transform={`translate(${px} ${-py}) rotate(${turn}) scale(${size * 54})`} fill="oklch(78% 0 0)">
      <title>camera, {Math.hypot(x, y).toFixed(2)} m away</title>
      <rect x={-0.1} y={-0.02} width={0.2} height={0.12} rx={0.015} />
      <path d="M-0.045 -0.02 L-0.085 -0.11 H0.085 L0.045 -0.02Z" />
    </g>
  );
}
