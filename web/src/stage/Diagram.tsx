import type { RectangleLight, Setup, Vec3 } from '@plinket/core';
import { useRef, type PointerEvent } from 'react';
import { colourOf, letterOf } from '../parts/identity.ts';
import { useDoc, useStage, useView } from './context.ts';
import { lightPatch, placePatch } from './moves.ts';
import { dragTo, flatView, lightOutline, type Flat } from './projection.ts';

const points = (p: [number, number][]): string => p.map(([x, y]) => `${x.toFixed(3)},${(-y).toFixed(3)}`).join(' ');
let drags = 0;

/** Rings in metres and rays in degrees around the head. */
function Rings({ flat, radius }: { flat: Flat; radius: number }) {
  const nose = flat.project([
    flat.head.origin[0] + flat.head.z[0],
    flat.head.origin[1] + flat.head.z[1],
    flat.head.origin[2] + flat.head.z[2],
  ]);
  const zero = Math.atan2(nose[0], nose[1]);
  return (
    <g fill="none" stroke="oklch(40% 0 0)" strokeWidth={0.008}>
      {Array.from({ length: Math.floor(radius) }, (_, i) => i + 1).map((r) => (
        <g key={r}>
          <circle r={r} />
          <text x={r * 0.7071 + 0.03} y={-r * 0.7071} fontSize={0.13} fill="oklch(62% 0 0)" stroke="none">
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
            x1={Math.sin(a) * (long ? 0.25 : 0.9)}
            y1={-Math.cos(a) * (long ? 0.25 : 0.9)}
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
function Figure({ flat }: { flat: Flat }) {
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

/** The backdrop's profile. */
function Backdrop({ flat, setup }: { flat: Flat; setup: Setup }) {
  const { stage } = setup;
  if (stage.kind !== 'sweep') return null;
  const { back, fillet: r, floor, height, width, front } = stage;
  const line =
    flat.kind === 'plan'
      ? [flat.project([-width / 2, 0, -back]), flat.project([width / 2, 0, -back])]
      : [
          flat.project([0, floor, front]),
          ...Array.from({ length: 9 }, (_, i) => {
            const a = (i / 8) * (Math.PI / 2);
            return flat.project([0, floor + r - r * Math.cos(a), -back + r - r * Math.sin(a)]);
          }),
          flat.project([0, floor + height, -back]),
        ];
  return <polyline points={points(line)} fill="none" stroke="oklch(60% 0 0)" strokeWidth={0.02} />;
}

function CameraMark({ flat, setup, halfW, halfH }: { flat: Flat; setup: Setup; halfW: number; halfH: number }) {
  const [x, y] = flat.project(setup.camera.position);
  // a camera further than the paper stands at its edge
  const k = Math.min(1, (halfW - 0.12) / Math.max(1e-6, Math.abs(x)), (halfH - 0.12) / Math.max(1e-6, Math.abs(y)));
  const [px, py] = [x * k, y * k];
  const turn = flat.kind === 'plan' ? 0 : 90;
  return (
    <g transform={`translate(${px} ${-py}) rotate(${turn})`} fill="oklch(78% 0 0)">
      <title>camera, {Math.hypot(x, y).toFixed(2)} m away</title>
      <rect x={-0.1} y={-0.02} width={0.2} height={0.12} rx={0.015} />
      <path d="M-0.045 -0.02 L-0.085 -0.11 H0.085 L0.045 -0.02Z" />
    </g>
  );
}

function LightMark({
  id,
  index,
  light,
  flat,
  drag,
}: {
  id: string;
  index: number;
  light: RectangleLight;
  flat: Flat;
  drag: (e: PointerEvent, id: string) => void;
}) {
  const selected = useView((v) => v.selected === id);
  const { view } = useStage();
  const { panel, wedge, centre } = lightOutline(flat, light);
  const colour = colourOf(index);
  // the letter stands clear of the panel, on the side away from the head
  const out = Math.hypot(centre[0], centre[1]) || 1;
  const [ux, uy] = [centre[0] / out, centre[1] / out];
  const clear = Math.max(...panel.map(([x, y]) => (x - centre[0]) * ux + (y - centre[1]) * uy)) + 0.16;
  const label: [number, number] = [centre[0] + ux * clear, centre[1] + uy * clear];
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${letterOf(index)} ${light.name}`}
      data-testid={`${flat.kind}-${id}`}
      className="cursor-grab touch-none active:cursor-grabbing"
      opacity={light.on ? 1 : 0.4}
      onPointerDown={(e) => drag(e, id)}
      onFocus={() => view.setState({ selected: id, sheet: 'light' })}
    >
      <polygon points={points(wedge)} fill={colour} opacity={selected ? 0.26 : 0.13} />
      <polygon points={points(panel)} fill={colour} stroke={colour} strokeWidth={0.035} strokeLinejoin="round" />
      {selected && <circle cx={centre[0]} cy={-centre[1]} r={0.06} fill="white" />}
      <circle cx={centre[0]} cy={-centre[1]} r={0.2} fill="transparent" />
      <text x={label[0]} y={-label[1] + 0.06} fontSize={0.19} fontWeight={700} fill={colour} textAnchor="middle">
        {letterOf(index)}
      </text>
    </g>
  );
}

/** PLAN and SIDE: the set to scale, with lights that can be dragged. */
export function Diagram({ kind, width, height }: { kind: 'plan' | 'side'; width: number; height: number }) {
  const { doc, view } = useStage();
  const setup = useDoc((d) => d.setup);
  const svg = useRef<SVGSVGElement>(null);
  const flat = flatView(setup, kind);
  // metres from the head to the edge of the paper
  const far = Math.max(
    1.5,
    ...setup.lights.order.map((id) => setup.lights.items[id]!).map((l) => (l.kind === 'rectangle' ? l.place.distance : 0)),
  );
  const halfH = kind === 'plan' ? far * 1.12 : 1.35;
  const halfW = (halfH * width) / height;

  const toPaper = (e: PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    return [((e.clientX - box.left) / box.width) * 2 * halfW - halfW, halfH - ((e.clientY - box.top) / box.height) * 2 * halfH];
  };
  const dragging = useRef<{ id: string; gesture: string; dx: number; dy: number }>(undefined);
  const start = (e: PointerEvent, id: string) => {
    const light = doc.getState().setup.lights.items[id] as RectangleLight;
    const [x, y] = toPaper(e);
    const { centre } = lightOutline(flat, light);
    dragging.current = { id, gesture: `drag-${kind}-${++drags}`, dx: centre[0] - x, dy: centre[1] - y };
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    view.setState({ selected: id, sheet: 'light' });
  };
  const move = (e: PointerEvent) => {
    const d = dragging.current;
    if (!d) return;
    const light = doc.getState().setup.lights.items[d.id] as RectangleLight;
    const [x, y] = toPaper(e);
    doc.getState().change(placePatch(d.id, dragTo(flat, light.place, [x + d.dx, y + d.dy])), d.gesture);
  };
  const stop = () => {
    const d = dragging.current;
    dragging.current = undefined;
    // the gesture is over: the next drag is a step of its own
    if (d) doc.getState().change(lightPatch(d.id, {}), undefined);
  };
  return (
    <section aria-label={kind === 'plan' ? 'Plan, from above' : 'Side'} className="relative bg-base-200">
      <h2 className="caps quiet absolute top-1.5 left-3">{kind}</h2>
      <svg
        ref={svg}
        width={width}
        height={height}
        viewBox={`${-halfW} ${-halfH} ${2 * halfW} ${2 * halfH}`}
        className="block"
        onPointerMove={move}
        onPointerUp={stop}
        onPointerCancel={stop}
        data-testid={kind}
      >
        {kind === 'plan' && <Rings flat={flat} radius={Math.max(halfW, halfH)} />}
        <Backdrop flat={flat} setup={setup} />
        <Figure flat={flat} />
        <CameraMark flat={flat} setup={setup} halfW={halfW} halfH={halfH} />
        {setup.lights.order.map((id, index) => {
          const light = setup.lights.items[id]!;
          return light.kind === 'rectangle' ? <LightMark key={id} {...{ id, index, light, flat }} drag={start} /> : null;
        })}
      </svg>
    </section>
  );
}
