import {
  inOrder,
  orderOf,
  axesInWorld,
  headAround,
  type Frame,
  isPlaced,
  type FlagItem,
  type Patch,
  type PlacedLight,
  type Setup,
  type SkyLight,
  type SunLight,
  type Vec3,
  flagPatch,
  placeChange,
  placePatch,
  skyPatch,
  dragTo,
  flagOutline,
  flatView,
  lightOutline,
  sunFrom,
  sunOnPaper,
  type Flat,
  type Point,
} from '@plinket/core';
import { useRef, type PointerEvent } from 'react';
import { useGestures } from '../parts/gestures.ts';
import { colourOf, letterOf } from '../parts/identity.ts';
import { useDoc, useStage, useView } from './context.ts';
import { Backdrop, CameraMark, Figure, points, Rings } from './DiagramSet.tsx';

/** What the marks of a diagram share. */
interface Marks {
  flat: Flat;
  headOf(thing: PlacedLight | FlagItem): Frame;
  halfW: number;
  halfH: number;
  start(e: PointerEvent, thing: Dragged, centre: Point): void;
}

const polygonOf = (body: Point[]) => (body.length > 1 ? points(body) : '');

function LightMark({ id, index, light, marks }: { id: string; index: number; light: PlacedLight; marks: Marks }) {
  const selected = useView((v) => v.selected === id || v.also.includes(id));
  const { select } = useStage();
  const { body, wedge, centre } = lightOutline(marks.flat, light, marks.headOf(light));
  const colour = colourOf(index);
  // the letter stands clear of the body, on the side away from the head
  const out = Math.hypot(centre[0], centre[1]) || 1;
  const [ux, uy] = [centre[0] / out, centre[1] / out];
  const clear = Math.max(...body.map(([x, y]) => (x - centre[0]) * ux + (y - centre[1]) * uy)) + 0.16;
  const label: Point = [centre[0] + ux * clear, centre[1] + uy * clear];
  const { range } = light;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${letterOf(index)} ${light.name}`}
      data-testid={`${marks.flat.kind}-${id}`}
      className={light.locked ? 'cursor-not-allowed' : 'cursor-grab touch-none active:cursor-grabbing'}
      opacity={light.on ? 1 : 0.4}
      onPointerDown={(e) => marks.start(e, { kind: 'light', id }, centre)}
      onFocus={() => !selected && select(id)}
    >
      {wedge.length > 0 && <polygon points={points(wedge)} fill={colour} opacity={selected ? 0.26 : 0.13} />}
      {selected &&
        [range.near, range.far].map(
          (r, i) =>
            r > 0 && (
              <circle
                key={i}
                cx={centre[0]}
                cy={-centre[1]}
                r={r}
                fill="none"
                stroke={colour}
                strokeWidth={0.012}
                strokeDasharray="0.06 0.05"
              />
            ),
        )}
      {(light.kind === 'ball' || light.kind === 'tube') && <circle cx={centre[0]} cy={-centre[1]} r={0.3} fill={colour} opacity={0.1} />}
      <polygon points={polygonOf(body)} fill={colour} stroke={colour} strokeWidth={0.035} strokeLinejoin="round" />
      {light.gobo.pattern !== 'none' && <GoboMark marks={marks} light={light} />}
      {selected && <circle cx={centre[0]} cy={-centre[1]} r={0.06} fill="white" />}
      <circle cx={centre[0]} cy={-centre[1]} r={0.2} fill="transparent" />
      <text x={label[0]} y={-label[1] + 0.06} fontSize={0.19} fontWeight={700} fill={colour} textAnchor="middle">
        {letterOf(index)}
      </text>
    </g>
  );
}

/** The frame of a gobo before its light. */
function GoboMark({ marks, light }: { marks: Marks; light: PlacedLight }) {
  const { flat } = marks;
  const { centre, x, z } = axesInWorld(marks.headOf(light), light);
  const { distance, width } = light.gobo;
  const end = (k: number) => flat.project([0, 1, 2].map((i) => centre[i]! + z[i]! * distance + x[i]! * width * k) as Vec3);
  return <polyline points={points([end(-0.5), end(0.5)])} stroke="white" strokeWidth={0.025} strokeDasharray="0.05 0.03" fill="none" />;
}

/** A sun or sky at the edge of the paper, where it comes from. */
function SunMark({ id, index, light, marks }: { id: string; index: number; light: SunLight | SkyLight; marks: Marks }) {
  const selected = useView((v) => v.selected === id);
  const { select } = useStage();
  const [x, y] = sunOnPaper(marks.flat, light, marks.halfW, marks.halfH);
  const colour = colourOf(index);
  const sun = light.kind === 'sun';
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${letterOf(index)} ${light.name}`}
      data-testid={`${marks.flat.kind}-${id}`}
      className="cursor-grab touch-none"
      opacity={light.on ? 1 : 0.4}
      onPointerDown={(e) => marks.start(e, { kind: 'light', id }, [x, y])}
      onFocus={() => !selected && select(id)}
    >
      {sun && (
        <line
          x1={x}
          y1={-y}
          x2={x * 0.25}
          y2={-y * 0.25}
          stroke={colour}
          strokeWidth={selected ? 0.03 : 0.015}
          strokeDasharray="0.08 0.06"
        />
      )}
      {sun ? (
        <circle cx={x} cy={-y} r={0.1} fill={colour} stroke={selected ? 'white' : 'none'} strokeWidth={0.03} />
      ) : (
        <path d={`M${x - 0.13} ${-y + 0.02} a0.13 0.13 0 0 1 0.26 0z`} fill="none" stroke={colour} strokeWidth={0.035} />
      )}
      <circle cx={x} cy={-y} r={0.2} fill="transparent" />
      <text x={x} y={-y + (sun ? 0.06 : 0.14)} fontSize={0.16} fontWeight={700} fill={sun ? 'black' : colour} textAnchor="middle">
        {letterOf(index)}
      </text>
    </g>
  );
}

function FlagMark({ id, flag, marks }: { id: string; flag: FlagItem; marks: Marks }) {
  const selected = useView((v) => v.flag === id);
  const { view } = useStage();
  const { body, centre } = flagOutline(marks.flat, flag, marks.headOf(flag));
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={flag.name}
      data-testid={`${marks.flat.kind}-${id}`}
      className="cursor-grab touch-none"
      opacity={flag.on ? 1 : 0.4}
      onPointerDown={(e) => marks.start(e, { kind: 'flag', id }, centre)}
      onFocus={() => view.setState({ flag: id, sheet: 'light', leaf: 'shaping' })}
    >
      <polygon
        points={points(body)}
        fill="black"
        stroke={selected ? 'white' : 'oklch(70% 0 0)'}
        strokeWidth={0.03}
        strokeLinejoin="round"
      />
      <circle cx={centre[0]} cy={-centre[1]} r={0.14} fill="transparent" />
    </g>
  );
}

type Dragged = { kind: 'light' | 'flag'; id: string };

/** What a drag to a point on paper changes. */
function draggedPatch(setup: Setup, flat: Flat, { kind, id }: Dragged, to: Point): Patch | undefined {
  if (kind === 'flag') {
    const flag = setup.flags.items[id];
    return flag && flagPatch(id, { place: placeChange(dragTo(flat, flag.place, to, headAround(setup, flag))) });
  }
  const light = setup.lights.items[id];
  if (!light || light.locked) return undefined;
  if (isPlaced(light)) return placePatch(id, dragTo(flat, light.place, to, headAround(setup, light)));
  return light.kind === 'sun' || light.kind === 'sky' ? skyPatch(setup, id, sunFrom(flat, light, to)) : undefined;
}

/** PLAN and SIDE: the set to scale, with lights and flags that can be dragged. */
export function Diagram({ kind, width, height }: { kind: 'plan' | 'side'; width: number; height: number }) {
  const { doc, view, select } = useStage();
  const setup = useDoc((d) => d.setup);
  const svg = useRef<SVGSVGElement>(null);
  const newGesture = useGestures();
  const flat = flatView(setup, kind);
  // metres from the head to the edge of the paper
  const far = Math.max(1.5, ...inOrder(setup.lights).map((l) => (isPlaced(l) ? l.place.distance : 0)));
  const halfH = kind === 'plan' ? far * 1.12 : 1.35;
  const halfW = (halfH * width) / height;

  const toPaper = (e: PointerEvent): Point => {
    const box = svg.current!.getBoundingClientRect();
    return [((e.clientX - box.left) / box.width) * 2 * halfW - halfW, halfH - ((e.clientY - box.top) / box.height) * 2 * halfH];
  };
  const dragging = useRef<Dragged & { gesture: string; dx: number; dy: number }>(undefined);
  const start = (e: PointerEvent, thing: Dragged, centre: Point) => {
    const [x, y] = toPaper(e);
    dragging.current = { ...thing, gesture: newGesture(), dx: centre[0] - x, dy: centre[1] - y };
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    if (thing.kind === 'light') select(thing.id, e.shiftKey || e.ctrlKey || e.metaKey);
    else view.setState({ flag: thing.id, sheet: 'light', leaf: 'shaping' });
  };
  const move = (e: PointerEvent) => {
    const d = dragging.current;
    if (!d) return;
    const [x, y] = toPaper(e);
    const patch = draggedPatch(doc.getState().setup, flat, d, [x + d.dx, y + d.dy]);
    if (patch) doc.getState().change(patch, d.gesture);
  };
  const stop = () => (dragging.current = undefined);
  const marks: Marks = { flat, headOf: (thing) => headAround(setup, thing), halfW, halfH, start };
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
        {orderOf(setup.lights).map((id, index) => {
          const light = setup.lights.items[id]!;
          if (isPlaced(light)) return <LightMark key={id} {...{ id, index, light, marks }} />;
          return light.kind === 'sun' || light.kind === 'sky' ? <SunMark key={id} {...{ id, index, light, marks }} /> : null;
        })}
        {orderOf(setup.flags).map((id) => (
          <FlagMark key={id} id={id} flag={setup.flags.items[id]!} marks={marks} />
        ))}
      </svg>
    </section>
  );
}
