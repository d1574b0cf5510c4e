import { firstInSight, isAbout, isPlaced, orderOf, patternAt, patternName, placePatch, type PatternGrid } from '@plinket/core';
import { scaleLinear } from 'd3';
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { hearEscape, useGestures } from '../../parts/gestures.ts';
import { useDoc, useStage, useView } from '../context.ts';
import type { Box } from '../room.ts';
import { patternNames, patternTones } from './direction-paper.ts';

/** The grid of the face that is read now; nothing while it is being made. */
function useGrid(): PatternGrid | string | undefined {
  const { engine } = useStage();
  const looking = useView((v) => v.reading?.why?.kind ?? '');
  const [grid, setGrid] = useState<PatternGrid | string>();
  useEffect(() => {
    if (looking) return;
    let left = false;
    setGrid(undefined);
    engine.directions().then(
      (made) => left || setGrid(made),
      (error: Error) => left || setGrid(error.message),
    );
    return () => {
      left = true;
    };
  }, [engine, looking]);
  return grid;
}

/**
 * All directions about the head, the figure's left on the right as the camera sees it: where one pattern ends and the next begins on this face.
 * Lights stand on it and can be dragged.
 */
export function DirectionPaper({ width, height }: Box) {
  const { doc, view, select } = useStage();
  const setup = useDoc((d) => d.setup);
  const selected = useView((v) => v.selected);
  const grid = useGrid();
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const newGesture = useGestures();
  const drag = useRef<{ id: string; gesture: string; deaf(): void }>(undefined);
  const made = typeof grid === 'object' ? grid : undefined;
  const names = useMemo(() => (made ? patternNames(made) : []), [made]);
  const half = made ? (made.azimuths[1]! - made.azimuths[0]!) / 2 : 3;
  const x = scaleLinear([-180 - half, 180 + half], [0, width]),
    y = scaleLinear([(made?.elevations[0] ?? 78) + half, (made?.elevations.at(-1) ?? -60) - half], [0, height]);
  useEffect(() => {
    const paint = canvas.current?.getContext('2d');
    if (paint && made) paint.putImageData(new ImageData(patternTones(made), made.azimuths.length, made.elevations.length), 0, 0);
  }, [made]);
  const stop = () => {
    if (!drag.current) return;
    drag.current.deaf();
    drag.current = undefined;
    view.setState({ dragging: false });
  };
  const start = (e: PointerEvent, id: string) => {
    if (e.button !== 0 || setup.lights.items[id]?.locked) return;
    stop();
    const gesture = newGesture();
    const deaf = hearEscape(() => {
      doc.getState().takeBack(gesture);
      stop();
    });
    drag.current = { id, gesture, deaf };
    view.setState({ dragging: true });
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    select(id);
  };
  const move = (e: PointerEvent) => {
    if (!drag.current) return;
    const box = svg.current!.getBoundingClientRect();
    const within = (v: number, most: number) => Math.min(most, Math.max(-most, Math.round(v)));
    const azimuth = within(x.invert(e.clientX - box.left), 180),
      elevation = within(y.invert(e.clientY - box.top), 89);
    doc.getState().change(placePatch(drag.current.id, { azimuth, elevation }), drag.current.gesture);
  };
  if (!made)
    return (
      <p className="quiet grid place-items-center text-xs" style={{ width, height }} role="status">
        {typeof grid === 'string' ? grid : 'Trying every direction on this face …'}
      </p>
    );
  const order = orderOf(setup.lights);
  return (
    <div className="relative shrink-0" style={{ width, height }}>
      <canvas
        ref={canvas}
        width={made.azimuths.length}
        height={made.elevations.length}
        className="h-full w-full"
        role="img"
        aria-label="Patterns by direction of the light"
      />
      <svg
        ref={svg}
        width={width}
        height={height}
        className="absolute inset-0 touch-none"
        onPointerMove={move}
        onPointerUp={stop}
        onPointerCancel={stop}
        data-testid="directions"
      >
        {[-90, 0, 90].map((a) => (
          <line key={a} x1={x(a)} x2={x(a)} y1={0} y2={height} stroke="white" strokeOpacity={a === 0 ? 0.3 : 0.14} />
        ))}
        <line x1={0} x2={width} y1={y(0)} y2={y(0)} stroke="white" strokeOpacity={0.3} />
        {names.map((n) => (
          <text
            key={`${n.pattern} ${n.azimuth}`}
            x={x(n.azimuth)}
            y={y(n.elevation) + 3}
            textAnchor="middle"
            fontSize={9.5}
            fill="white"
            stroke="black"
            strokeWidth={2}
            strokeOpacity={0.45}
            paintOrder="stroke"
            className="pointer-events-none"
          >
            {patternName(n.pattern).split(',')[0]}
          </text>
        ))}
        {order.map((id, index) => {
          const light = setup.lights.items[id]!;
          if (!isPlaced(light) || !isAbout(setup, light, firstInSight(setup) ?? '')) return null;
          const { azimuth, elevation } = light.place;
          const here = patternAt(made, azimuth, elevation);
          return (
            <g
              key={id}
              transform={`translate(${x(azimuth)} ${y(elevation)})`}
              opacity={light.on ? 1 : 0.4}
              className="cursor-grab"
              onPointerDown={(e) => start(e, id)}
              data-testid={`direction-${id}`}
            >
              <title>{`${light.name}: ${here ? patternName(here) : 'no name'}`}</title>
              <circle r={id === selected ? 7.5 : 6} fill={colourOf(index)} stroke={id === selected ? 'white' : 'black'} strokeWidth={1.4} />
              <text textAnchor="middle" y={3.2} fontSize={9} fontWeight={700} fill="black" className="pointer-events-none">
                {letterOf(index)}
              </text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}
