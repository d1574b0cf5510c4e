// What a hand does on the picture and on the view along a light.
import { dollyPatch, isPlaced, orbitPatch, panPatch, placePatch, walkChange, type Patch, type PlacedLight } from '@plinket/core';
import { useRef, type PointerEvent, type WheelEvent } from 'react';
import { hearEscape, useGestures } from '../parts/gestures.ts';
import { useStage } from './context.ts';

/** Pixels that a pointer may wander without being a drag. */
const STILL = 4;
/** Degrees of a pixel. */
const TURN = 1 / 4;

/** Dragging something by how far the pointer went since the last time; Escape takes all of it back. */
function useDragging(able: boolean, patchOf: (dx: number, dy: number, tall: number, shift: boolean) => Patch | undefined) {
  const { doc } = useStage();
  const newGesture = useGestures();
  const drag = useRef<{ x: number; y: number; gesture: string; moving: boolean; deaf(): void }>(undefined);
  const stop = () => {
    drag.current?.deaf();
    drag.current = undefined;
  };
  return {
    onPointerDown: (e: PointerEvent) => {
      if (!able || e.button !== 0) return;
      stop();
      const gesture = newGesture();
      const deaf = hearEscape(() => {
        doc.getState().takeBack(gesture);
        stop();
      });
      drag.current = { x: e.clientX, y: e.clientY, gesture, moving: false, deaf };
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: PointerEvent) => {
      const d = drag.current;
      if (!d) return;
      const dx = e.clientX - d.x,
        dy = e.clientY - d.y;
      if (!d.moving && Math.hypot(dx, dy) < STILL) return;
      d.moving = true;
      const patch = patchOf(dx, dy, e.currentTarget.clientHeight, e.shiftKey);
      Object.assign(d, { x: e.clientX, y: e.clientY });
      if (patch) doc.getState().change(patch, d.gesture);
    },
    onPointerUp: stop,
    onPointerCancel: stop,
  };
}

const closer = (e: WheelEvent): number => (e.deltaY > 0 ? 1.05 : 1 / 1.05);

/** On the picture: the camera goes round its target, aside with Shift, nearer and further by the wheel, unless it is locked. */
export function useCameraHand(picking: boolean) {
  const { doc, episodes } = useStage();
  const dragging = useDragging(!picking, (dx, dy, tall, shift) => {
    const { setup } = doc.getState();
    if (setup.camera.locked) return undefined;
    return shift ? panPatch(setup, -dx / tall, dy / tall) : orbitPatch(setup, -dx * TURN, dy * TURN);
  });
  return {
    ...dragging,
    onWheel: (e: WheelEvent) => {
      const { setup, change } = doc.getState();
      if (!setup.camera.locked) change(dollyPatch(setup, closer(e)), episodes.name('wheel-camera', performance.now()));
    },
  };
}

/** On the view along a light: the light goes round the head as a camera would, nearer and further by the wheel, unless it is locked. */
export function useLightHand(id: string | undefined) {
  const { doc, episodes } = useStage();
  const light = (): PlacedLight | undefined => {
    const found = id === undefined ? undefined : doc.getState().setup.lights.items[id];
    return found && isPlaced(found) && !found.locked ? found : undefined;
  };
  const dragging = useDragging(id !== undefined, (dx, dy) => {
    const moved = light();
    const change = moved && walkChange(moved, -dx * TURN, dy * TURN);
    return change && id !== undefined ? { lights: { items: { [id]: change } } } : undefined;
  });
  return {
    ...dragging,
    onWheel: (e: WheelEvent) => {
      const moved = light();
      if (moved && id !== undefined)
        doc
          .getState()
          .change(placePatch(id, { distance: moved.place.distance * closer(e) }), episodes.name(`wheel-${id}`, performance.now()));
    },
  };
}
