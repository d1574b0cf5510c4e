import { describe, expect, it } from '@jest/globals';
import { applyPatch, compileCamera, distance, headInWorld, placeInWorld, setupHead, spot, sun, type Setup, type Vec3 } from '@plinket/core';
import { PerspectiveCamera, Vector3 } from 'three';
import { panelLight, setupWith } from '../../../../core/src/testing/setups.ts';
import { rangeWith } from '../clips.ts';
import { airOf, beamLines, bodiesOf, cameraLines, standOf } from './bodies.ts';
import { gripPatch, gripPoint } from './grip.ts';

const place = (azimuth: number, elevation: number, distance: number) => ({ azimuth, elevation, distance, aim: [0, 0, 0] as Vec3 });
const plain = setupWith({
  key: panelLight({ width: 0.5, height: 0.65, place: place(40, 35, 1.5) }),
  fill: panelLight({ place: place(-52, 5, 1.8) }),
});
const head = { origin: [0, 1.35, 0.08], forward: [0, 0, 1], up: [0, 1, 0], height: 0.24, source: 'file' };
const keeper = {
  ...{ rank: 'a0', name: 'Keeper', asset: 'a'.repeat(64), visible: true, position: [0, 0, 0], turn: 0, scale: 1, materials: {} },
  head,
};
const base = applyPatch(plain, {
  subjects: { items: { keeper } },
  camera: { position: [-0.52, 1.36, 2.35], target: [0.02, 1.3, 0] },
} as never);
const withLight = (id: string, light: object): Setup => applyPatch(base, { lights: { items: { [id]: light } } } as never);

describe('lights as objects', () => {
  it('stand where their place says, shine towards their aim, and have their letters', () => {
    const bodies = bodiesOf(base);
    expect(bodies.map((b) => b.letter)).toEqual(['A', 'B']);
    const [key] = bodies;
    const at = placeInWorld(setupHead(base), (base.lights.items['key'] as { place: never }).place);
    key!.centre.forEach((v, k) => expect(v).toBeCloseTo(at[k]!, 9));
    expect(key!.form).toEqual({ kind: 'panel', width: 0.5, height: 0.65 });
    // from the light along its axis for its reach: the middle between the eyes
    const met = key!.z.map((v, k) => key!.centre[k]! + v * key!.reach) as Vec3;
    expect(distance(met, setupHead(base).origin)).toBeLessThan(1e-9);
    // axes of length 1, square to each other, right-handed
    const [x, y, z] = [key!.x, key!.y, key!.z].map((v) => new Vector3(...v));
    expect(x!.clone().cross(y!).distanceTo(z!)).toBeLessThan(1e-9);
  });
  it('draw their beams as wide as they are where they are aimed at', () => {
    const setup = withLight(
      'pin',
      spot({ name: 'Pin', angle: 40, place: { azimuth: 0, elevation: 0, distance: 2, aim: [0, 0, 0] } } as never),
    );
    const pin = bodiesOf(setup).find((b) => b.id === 'pin')!;
    expect(pin.beam).toBe(20);
    const radius = Math.max(...beamLines(pin).map((p) => Math.hypot(p[0] - 0, p[1] - 1.35)));
    expect(radius).toBeCloseTo(2 * Math.tan((20 * Math.PI) / 180), 6);
    expect(beamLines(bodiesOf(base)[0]!)).toEqual([]);
  });
  it('a sun is a direction, and only while it is on', () => {
    const setup = withLight('sun', sun({ name: 'Sun', bearing: 90, elevation: 0 } as never));
    const [x, y, z] = airOf(setup)[0]!.towards;
    expect([x, y, z!].map((v) => Math.round(v! * 1e6) / 1e6)).toEqual([1, 0, 0]);
    expect(airOf(withLight('sun', sun({ name: 'Sun', on: false } as never)))).toEqual([]);
  });
});

describe('the camera', () => {
  // against three.js's own perspective camera with the field of view 2·atan(s/2f)
  it('has its frame where three.js projects the corners of the picture', () => {
    const { camera } = base;
    const theirs = new PerspectiveCamera((2 * Math.atan(camera.sensor / 2 / camera.focal) * 180) / Math.PI, camera.aspect, 0.01, 100);
    theirs.position.set(...camera.position);
    theirs.lookAt(...camera.target);
    theirs.updateMatrixWorld();
    for (const p of cameraLines(base).filter((_, i) => i % 4 === 1)) {
      const q = new Vector3(...p).project(theirs);
      expect(Math.abs(q.x)).toBeCloseTo(1, 6);
      expect(Math.abs(q.y)).toBeCloseTo(1, 6);
    }
    expect(standOf(base, 'camera', undefined).fov).toBeCloseTo(theirs.fov, 9);
    expect(standOf(base, 'camera', undefined).eye).toEqual(compileCamera(base).origin);
  });
  it('is looked at with the camera at the bottom from above, as in the plan', () => {
    const { eye, target, up } = standOf(base, 'top', undefined);
    expect(eye[1]).toBeGreaterThan(target[1] + 5);
    const theirs = new PerspectiveCamera(36, 1, 0.1, 50);
    theirs.position.set(...eye);
    theirs.up.set(...up);
    theirs.lookAt(...target);
    theirs.updateMatrixWorld();
    const seen = new Vector3(...base.camera.position).project(theirs);
    expect(seen.y).toBeLessThan(0);
    expect(Math.abs(seen.x)).toBeLessThan(0.05);
    // the subject's left is to the right, as in the picture
    expect(new Vector3(1, 1.35, 0).project(theirs).x).toBeGreaterThan(0);
  });
  it('along a light the eye is where the light is', () => {
    const { eye, target } = standOf(base, 'along', 'key');
    expect(eye).toEqual(bodiesOf(base)[0]!.centre);
    expect(distance(target, setupHead(base).origin)).toBeLessThan(1e-9);
    expect(standOf(base, 'along', 'nobody').eye).toEqual(standOf(base, 'free', undefined).eye);
  });
});

describe('handles', () => {
  it('move a light to a point and keep its aim; a locked one has none', () => {
    const moved = applyPatch(base, gripPatch(base, { kind: 'light', id: 'key' }, [1, 1.35, 1.08]));
    const light = moved.lights.items['key'] as { place: { azimuth: number; elevation: number; distance: number; aim: Vec3 } };
    expect(light.place).toMatchObject({ azimuth: 45, elevation: 0, distance: 1.414, aim: [0, 0, 0] });
    gripPoint(moved, { kind: 'light', id: 'key' })!.forEach((v, k) => expect(v).toBeCloseTo([1, 1.35, 1.08][k]!, 2));
    const locked = applyPatch(base, { lights: { items: { key: { locked: true } } } });
    expect(gripPoint(locked, { kind: 'light', id: 'key' })).toBeUndefined();
    expect(gripPoint(base, undefined)).toBeUndefined();
  });
  it('move figures and the camera', () => {
    const figure = applyPatch(base, gripPatch(base, { kind: 'subject', id: 'keeper' }, [0.5, 0, -0.25]));
    expect(headInWorld(figure.subjects.items['keeper']!).origin[0]).toBeCloseTo(0.5, 6);
    const camera = applyPatch(base, gripPatch(base, { kind: 'camera' }, [0, 1.5, 3]));
    expect(camera.camera.position).toEqual([0, 1.5, 3]);
    expect(gripPoint(applyPatch(base, { camera: { locked: true } }), { kind: 'camera' })).toBeUndefined();
  });
});

describe('the part of a clip that is played', () => {
  it('keeps its other end, in seconds, and is none when it is the whole clip', () => {
    expect(rangeWith([0, 4], 0, 1.5, 4)).toEqual([1.5, 4]);
    expect(rangeWith([1.5, 4], 1, 2, 4)).toEqual([1.5, 2]);
    expect(rangeWith([1.5, 4], 0, 0, 4)).toBeNull();
    // the last frame lies within half a frame of the end
    expect(rangeWith([0, 2], 1, 4 - 0.01, 4)).toBeNull();
  });
});
