import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { Object3D, PerspectiveCamera, Vector3 } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { TransformControls } from 'three/addons/controls/TransformControls.js';
import type { Vec3 } from '@plinket/core';
import { hearEscape, useGestures } from '../../parts/gestures.ts';

interface Stand {
  eye: Vec3;
  target: Vec3;
  up: Vec3;
  fov: number;
}

/**
 * Walking round the set, and handles on what is held. Drawn on demand only: every change asks for one frame. `stand` is taken
 * whenever it is a new one; from there the hand leads.
 */
export function Hands({
  stand,
  held,
  snap,
  above,
  still,
  onMove,
  onTakeBack,
}: {
  stand: Stand;
  held: Vec3 | undefined;
  snap: boolean;
  /** Seen from above: what is held stays at its height. */
  above: boolean;
  /** The view belongs to a camera or a light: it is not walked away from under its name. */
  still: boolean;
  onMove(to: Vec3, gesture: string): void;
  /** Escape during a drag. */
  onTakeBack(gesture: string): void;
}) {
  const { camera, gl, scene, invalidate } = useThree();
  const told = useRef({ onMove, onTakeBack });
  told.current = { onMove, onTakeBack };
  const named = useRef(useGestures());
  const fixed = useRef(still);
  fixed.current = still;
  const grip = useMemo(() => new Object3D(), []);
  const controls = useMemo(() => {
    const orbit = new OrbitControls(camera, gl.domElement);
    orbit.enableDamping = false;
    const handles = new TransformControls(camera, gl.domElement);
    handles.setSize(0.8);
    return { orbit, handles, helper: handles.getHelper() };
  }, [camera, gl]);

  useEffect(() => {
    const { orbit, handles, helper } = controls;
    const draw = () => invalidate();
    let dragging: { gesture: string; deaf(): void } | undefined;
    const stop = () => {
      dragging?.deaf();
      dragging = undefined;
    };
    const drag = ({ value }: { value: unknown }) => {
      stop();
      orbit.enabled = value !== true && !fixed.current;
      if (value !== true) return;
      const gesture = named.current();
      const deaf = hearEscape(() => {
        // the hand holds nothing from now on, and the handles stand where they were taken
        stop();
        handles.reset();
        handles.pointerUp(null);
        told.current.onTakeBack(gesture);
        // until the button is let go: else the view would begin to turn
        orbit.enabled = false;
      });
      dragging = { gesture, deaf };
    };
    const released = () => (orbit.enabled = !fixed.current);
    const move = () => {
      if (dragging) told.current.onMove(grip.position.toArray(), dragging.gesture);
      invalidate();
    };
    orbit.addEventListener('change', draw);
    handles.addEventListener('change', draw);
    handles.addEventListener('dragging-changed', drag);
    handles.addEventListener('objectChange', move);
    window.addEventListener('pointerup', released);
    scene.add(grip, helper);
    return () => {
      stop();
      window.removeEventListener('pointerup', released);
      orbit.removeEventListener('change', draw);
      handles.removeEventListener('change', draw);
      handles.removeEventListener('dragging-changed', drag);
      handles.removeEventListener('objectChange', move);
      scene.remove(grip, helper);
      handles.dispose();
      orbit.dispose();
    };
  }, [controls, grip, scene, invalidate]);

  useEffect(() => {
    camera.up.set(...stand.up);
    camera.position.set(...stand.eye);
    if (camera instanceof PerspectiveCamera) {
      camera.fov = stand.fov;
      camera.updateProjectionMatrix();
    }
    controls.orbit.target.set(...stand.target);
    controls.orbit.enabled = !fixed.current;
    controls.orbit.update();
    invalidate();
  }, [stand, camera, controls, invalidate]);

  useEffect(() => {
    const { handles } = controls;
    handles.showY = !above;
    handles.setTranslationSnap(snap ? 0.1 : null);
    if (held) {
      // while a handle is dragged the hand leads, and the document follows
      if (!handles.dragging) grip.position.set(...held);
      handles.attach(grip);
    } else handles.detach();
    invalidate();
  }, [held, snap, above, controls, grip, invalidate]);

  // where the handles are on the canvas, in shares of it: for who reads the page instead of looking at it
  useFrame(() => {
    // the camera has been moved but not drawn with yet
    camera.updateMatrixWorld();
    const p = projected.copy(grip.position).project(camera);
    gl.domElement.dataset['handle'] = held ? `${((p.x + 1) / 2).toFixed(4)} ${((1 - p.y) / 2).toFixed(4)}` : '';
  });
  return null;
}

const projected = new Vector3();
