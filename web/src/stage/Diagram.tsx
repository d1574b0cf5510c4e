import {
  apart,
  dragTo,
  flagPatch,
  flatView,
  headAround,
  isPlaced,
  orderOf,
  placeChange,
  placePatch,
  skyPatch,
  sunFrom,
  type Flat,
  type Patch,
  type Point,
  type Setup,
} from '@plinket/core';
import { useRef, type PointerEvent } from 'react';
import { hearEscape, useGestures } from '../parts/gestures.ts';
import { useDoc, useStage } from './context.ts';
import { FlagMark, labelOf, letterRoom, LightMark, SunMark, type Dragged, type Marks } from './DiagramMarks.tsx';
import { Backdrop, CameraMark, Figure, Rings } from './DiagramSet.tsx';
import { usePaper } from './paper.ts';

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

interface Drag extends Dragged {
  gesture: string;
  dx: number;
  dy: number;
  deaf(): void;
}

/** PLAN and SIDE: the set to scale, with lights and flags that can be dragged. */
export function Diagram({ kind, width, height }: { kind: 'plan' | 'side'; width: number; height: number }) {
  const { doc, view, select } = useStage();
  const setup = useDoc((d) => d.setup);
  const svg = useRef<SVGSVGElement>(null);
  const newGesture = useGestures();
  const { paper, zoomed, fit, hold, letGo } = usePaper(kind, width, height, setup, svg);
  const flat = flatView(setup, kind);
  const { halfW, halfH } = paper;

  const toPaper = (e: PointerEvent): Point => {
    const box = svg.current!.getBoundingClientRect();
    return [((e.clientX - box.left) / box.width) * 2 * halfW - halfW, halfH - ((e.clientY - box.top) / box.height) * 2 * halfH];
  };
  const dragging = useRef<Drag>(undefined);
  const start = (e: PointerEvent, thing: Dragged, centre: Point) => {
    if (e.button !== 0) return;
    stop();
    const [x, y] = toPaper(e);
    const gesture = newGesture();
    const deaf = hearEscape(() => {
      doc.getState().takeBack(gesture);
      stop();
    });
    dragging.current = { ...thing, gesture, dx: centre[0] - x, dy: centre[1] - y, deaf };
    hold();
    view.setState({ dragging: true });
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
  const stop = () => {
    if (!dragging.current) return;
    dragging.current.deaf();
    dragging.current = undefined;
    letGo();
    view.setState({ dragging: false });
  };
  const marks: Marks = { flat, paper, headOf: (thing) => headAround(setup, thing), start };
  const placed = orderOf(setup.lights).filter((id) => isPlaced(setup.lights.items[id]!));
  const letters = apart(
    placed.map((id) => {
      const light = setup.lights.items[id]!;
      return isPlaced(light) ? labelOf(marks, light) : [0, 0];
    }),
    letterRoom(paper),
  );
  return (
    <section aria-label={kind === 'plan' ? 'Plan, from above' : 'Side'} className="relative min-h-0 overflow-hidden bg-base-200">
      <h2 className="caps quiet pointer-events-none absolute top-1.5 left-3">{kind}</h2>
      {zoomed && (
        <button className="quiet absolute right-2 bottom-1 text-2xs hover:text-base-content" onClick={fit} data-testid={`${kind}-fit`}>
          fit all
        </button>
      )}
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
        data-px={paper.px}
      >
        {kind === 'plan' && <Rings flat={flat} paper={paper} />}
        <Backdrop flat={flat} setup={setup} px={paper.px} />
        <Figure flat={flat} />
        <CameraMark flat={flat} setup={setup} paper={paper} />
        {orderOf(setup.lights).map((id, index) => {
          const light = setup.lights.items[id]!;
          if (isPlaced(light)) return <LightMark key={id} {...{ id, index, light, marks }} label={letters[placed.indexOf(id)]!} />;
          return light.kind === 'sun' || light.kind === 'sky' ? <SunMark key={id} {...{ id, index, light, marks }} /> : null;
        })}
        {orderOf(setup.flags).map((id) => (
          <FlagMark key={id} id={id} flag={setup.flags.items[id]!} marks={marks} />
        ))}
      </svg>
    </section>
  );
}
