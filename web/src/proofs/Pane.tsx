// One frame of the wall: pictures that lie over each other, all seen through the same crop.
import type { Proof } from '@plinket/contract';
import type { Pin } from '@plinket/core';
import { useRef, type CSSProperties, type PointerEvent, type ReactNode } from 'react';
import { api } from '../api/client.ts';
import { inFrame, inPicture, WHOLE, within, zoomed } from './wall.ts';
import { useWall, useWallState } from './context.ts';

/** Where an element was pointed at, 0…1 of its box. */
function placeIn(e: { currentTarget: Element; clientX: number; clientY: number }): [number, number] {
  const box = e.currentTarget.getBoundingClientRect();
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
}

/** A picture under the wall's crop. */
export function Cropped({ picture, name, style }: { picture: string; name: string; style?: CSSProperties }) {
  const { zoom, x, y } = useWallState((w) => w.crop);
  return (
    <img
      src={api.blobUrl(picture)}
      alt={name}
      draggable={false}
      className="absolute inset-0 h-full w-full origin-top-left object-contain select-none"
      style={{ transform: `scale(${zoom}) translate(${(0.5 / zoom - x) * 100}%, ${(0.5 / zoom - y) * 100}%)`, ...style }}
    />
  );
}

function Pins({ pins }: { pins: readonly Pin[] }) {
  const crop = useWallState((w) => w.crop);
  return pins.map((pin, i) => {
    const [u, v] = inFrame(crop, pin.at);
    if (u < 0 || u > 1 || v < 0 || v > 1) return null;
    return (
      <span
        key={i}
        title={pin.text}
        data-testid="pin"
        className="absolute grid size-4.5 -translate-1/2 place-items-center rounded-full border border-black/60 bg-white text-2xs font-bold text-black"
        style={{ left: `${u * 100}%`, top: `${v * 100}%` }}
      >
        {i + 1}
      </span>
    );
  });
}

interface PaneProps {
  /** Whose pane it is: it comes into hand when it is touched, and its pins are shown. */
  proof: Proof;
  number: number;
  width: number;
  height: number;
  children: ReactNode;
  /** A pin was put at a place of the picture. */
  onPin(at: [number, number]): void;
}

/** A frame that is zoomed by the wheel and moved by the hand, all frames alike. */
export function Pane({ proof, number, width, height, children, onPin }: PaneProps) {
  const wall = useWall();
  const { inHand, pinning } = useWallState((w) => w);
  const held = useRef<{ x: number; y: number; moved: boolean }>(undefined);
  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    held.current = { x: e.clientX, y: e.clientY, moved: false };
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    const from = held.current;
    if (!from) return;
    const dx = e.clientX - from.x,
      dy = e.clientY - from.y;
    if (!from.moved && Math.hypot(dx, dy) < 4) return;
    held.current = { x: e.clientX, y: e.clientY, moved: true };
    wall.setState(({ crop }) => ({ crop: within({ ...crop, x: crop.x - dx / width / crop.zoom, y: crop.y - dy / height / crop.zoom }) }));
  };
  const up = (e: PointerEvent<HTMLDivElement>) => {
    const from = held.current;
    held.current = undefined;
    if (!from || from.moved) return;
    const { crop } = wall.getState();
    wall.setState({ inHand: proof.id });
    if (pinning) onPin(inPicture(crop, placeIn(e)));
  };
  const chosen = inHand === proof.id;
  return (
    <figure className="flex flex-col" style={{ width }} data-testid="pane" data-proof={proof.id}>
      <div
        className={`relative overflow-hidden bg-black ${chosen ? 'outline-2 outline-white' : ''} ${pinning ? 'cursor-crosshair' : 'cursor-grab active:cursor-grabbing'} touch-none`}
        style={{ width, height }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => (held.current = undefined)}
        onDoubleClick={() => wall.setState({ crop: WHOLE })}
        onWheel={(e) => {
          const at = placeIn(e);
          wall.setState(({ crop }) => ({ crop: zoomed(crop, Math.exp(-e.deltaY / 400), at) }));
        }}
      >
        {children}
        <Pins pins={proof.pins} />
      </div>
      <figcaption className="h-5 truncate pt-0.5 text-2xs">
        <button className="max-w-full truncate" aria-pressed={chosen} onClick={() => wall.setState({ inHand: proof.id })}>
          <b>{number}</b> {proof.name} <span className="quiet">{proof.setupName}</span>
        </button>
      </figcaption>
    </figure>
  );
}
