import { axesInWorld, flagOutline, lightOutline, sunOnPaper } from '@plinket/core';
import type { FlagItem, Flat, Frame, PlacedLight, Point, SkyLight, SunLight, Vec3 } from '@plinket/core';
import type { KeyboardEvent, PointerEvent } from 'react';
import { colourOf, letterOf } from '../parts/identity.ts';
import { useStage, useView } from './context.ts';
import { points } from './DiagramSet.tsx';
import type { Paper } from './paper.ts';

export type Dragged = { kind: 'light' | 'flag'; id: string };

/** What the marks of a diagram share. */
export interface Marks {
  flat: Flat;
  paper: Paper;
  headOf(thing: PlacedLight | FlagItem): Frame;
  start(e: PointerEvent, thing: Dragged, centre: Point): void;
}

/** Pixels: how large letters are, how far they stand off, how near a pointer must come. */
const LETTER = 10.5,
  OFF = 9,
  TOUCH = 10;

/** What Enter and Space do to a mark. Passing over it by Tab takes nothing in hand: the way to the sheet leads past all of them. */
const onEnter = (taken: boolean, act: () => void) => (e: KeyboardEvent) => {
  // on what is in hand already they are the Stage's own: solo, the last proof
  if (taken || (e.key !== 'Enter' && e.key !== ' ')) return;
  e.preventDefault();
  e.stopPropagation();
  act();
};

const polygonOf = (body: Point[]) => (body.length > 1 ? points(body) : '');

/** Where a light's letter would like to stand: clear of its body, on the side away from the head. */
export function labelOf({ flat, paper, headOf }: Pick<Marks, 'flat' | 'paper' | 'headOf'>, light: PlacedLight): Point {
  const { body, centre } = lightOutline(flat, light, headOf(light));
  const out = Math.hypot(centre[0], centre[1]) || 1;
  const [ux, uy] = [centre[0] / out, centre[1] / out];
  const clear = Math.max(0, ...body.map(([x, y]) => (x - centre[0]) * ux + (y - centre[1]) * uy)) + OFF * paper.px;
  return [centre[0] + ux * clear, centre[1] + uy * clear];
}

/** Room that a letter wants for itself, metres. */
export const letterRoom = ({ px }: Paper): [number, number] => [1.25 * LETTER * px, 1.15 * LETTER * px];

export function LightMark({
  id,
  index,
  light,
  label,
  marks,
}: {
  id: string;
  index: number;
  light: PlacedLight;
  label: Point;
  marks: Marks;
}) {
  const selected = useView((v) => v.selected === id || v.also.includes(id));
  const { select } = useStage();
  const { px } = marks.paper;
  const { body, wedge, centre } = lightOutline(marks.flat, light, marks.headOf(light));
  const colour = colourOf(index);
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
      onKeyDown={onEnter(selected, () => select(id))}
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
                strokeWidth={px}
                strokeDasharray={`${3 * px} ${2.5 * px}`}
              />
            ),
        )}
      {(light.kind === 'ball' || light.kind === 'tube') && (
        <circle cx={centre[0]} cy={-centre[1]} r={15 * px} fill={colour} opacity={0.1} />
      )}
      <polygon points={polygonOf(body)} fill={colour} stroke={colour} strokeWidth={1.8 * px} strokeLinejoin="round" />
      {light.gobo.pattern !== 'none' && <GoboMark marks={marks} light={light} />}
      {selected && <circle cx={centre[0]} cy={-centre[1]} r={3 * px} fill="white" />}
      <circle cx={centre[0]} cy={-centre[1]} r={TOUCH * px} fill="transparent" />
      <text
        x={label[0]}
        y={-label[1] + 0.35 * LETTER * px}
        fontSize={LETTER * px}
        fontWeight={700}
        fill={colour}
        textAnchor="middle"
        data-testid={`letter-${marks.flat.kind}-${id}`}
      >
        {letterOf(index)}
      </text>
    </g>
  );
}

/** The frame of a gobo before its light. */
function GoboMark({ marks, light }: { marks: Marks; light: PlacedLight }) {
  const { flat, paper } = marks;
  const { centre, x, z } = axesInWorld(marks.headOf(light), light);
  const { distance, width } = light.gobo;
  const end = (k: number) => flat.project([0, 1, 2].map((i) => centre[i]! + z[i]! * distance + x[i]! * width * k) as Vec3);
  return (
    <polyline
      points={points([end(-0.5), end(0.5)])}
      stroke="white"
      strokeWidth={1.3 * paper.px}
      strokeDasharray={`${2.5 * paper.px} ${1.5 * paper.px}`}
      fill="none"
    />
  );
}

/** A sun or sky at the edge of the paper, where it comes from. */
export function SunMark({ id, index, light, marks }: { id: string; index: number; light: SunLight | SkyLight; marks: Marks }) {
  const selected = useView((v) => v.selected === id);
  const { select } = useStage();
  const { halfW, halfH, px } = marks.paper;
  const [x, y] = sunOnPaper(marks.flat, light, halfW, halfH);
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
      onKeyDown={onEnter(selected, () => select(id))}
    >
      {sun && (
        <line
          x1={x}
          y1={-y}
          x2={x * 0.25}
          y2={-y * 0.25}
          stroke={colour}
          strokeWidth={(selected ? 1.6 : 0.8) * px}
          strokeDasharray={`${4 * px} ${3 * px}`}
        />
      )}
      {sun ? (
        <circle cx={x} cy={-y} r={7 * px} fill={colour} stroke={selected ? 'white' : 'none'} strokeWidth={1.5 * px} />
      ) : (
        <path d={`M${x - 8 * px} ${-y + px} a${8 * px} ${8 * px} 0 0 1 ${16 * px} 0z`} fill="none" stroke={colour} strokeWidth={1.8 * px} />
      )}
      <circle cx={x} cy={-y} r={TOUCH * px} fill="transparent" />
      <text x={x} y={-y + (sun ? 3.4 : 9) * px} fontSize={9 * px} fontWeight={700} fill={sun ? 'black' : colour} textAnchor="middle">
        {letterOf(index)}
      </text>
    </g>
  );
}

export function FlagMark({ id, flag, marks }: { id: string; flag: FlagItem; marks: Marks }) {
  const selected = useView((v) => v.flag === id);
  const { view } = useStage();
  const { px } = marks.paper;
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
      onKeyDown={onEnter(selected, () => view.setState({ flag: id, sheet: 'light', leaf: 'shaping' }))}
    >
      <polygon
        points={points(body)}
        fill="black"
        stroke={selected ? 'white' : 'oklch(70% 0 0)'}
        strokeWidth={1.6 * px}
        strokeLinejoin="round"
      />
      <circle cx={centre[0]} cy={-centre[1]} r={0.7 * TOUCH * px} fill="transparent" />
    </g>
  );
}
