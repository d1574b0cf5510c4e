import { describe, expect, it } from '@jest/globals';
import { dragTo, flatView, lightOutline, placeInWorld, setupHead, type RectangleLight } from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const key = setup.lights.items['key'] as RectangleLight;

describe('PLAN and SIDE', () => {
  const plan = flatView(setup, 'plan'),
    side = flatView(setup, 'side');
  it('PLAN has the camera below and agrees with the picture about left and right', () => {
    const [x, y] = plan.project(setup.camera.position);
    expect(y).toBeLessThan(-2);
    expect(x).toBeCloseTo(0, 6);
    // the key stands to the subject's left, which the camera sees on the right
    expect(lightOutline(plan, key).centre[0]).toBeGreaterThan(0.5);
  });
  it('SIDE has the camera at the left and height upwards', () => {
    expect(side.project(setup.camera.position)[0]).toBeLessThan(-2);
    expect(lightOutline(side, key).centre[1]).toBeCloseTo(1.5 * Math.sin((35 * Math.PI) / 180), 6);
  });
  it('draws panels to scale', () => {
    const flat = panelLight({ place: { azimuth: 0, elevation: 0, distance: 2, aim: [0, 0, 0] }, width: 1 });
    const xs = lightOutline(plan, flat).body.map((p) => p[0]);
    expect(Math.max(...xs) - Math.min(...xs)).toBeCloseTo(1, 6);
  });
  it.each([
    [1.2, -0.7],
    [-0.4, 1.1],
  ])('a drag in PLAN to %f, %f puts the light there and keeps its height angle', (x, y) => {
    const place = { ...key.place, ...dragTo(plan, key.place, [x, y]) };
    const [px, py] = plan.project(placeInWorld(setupHead(setup), place));
    expect([px, py].map((v) => +v.toFixed(6))).toEqual([x, y]);
    expect(place.elevation).toBe(35);
  });
  it('a drag in SIDE moves the light on its vertical line', () => {
    const place = { ...key.place, ...dragTo(side, key.place, [0, -0.3]) };
    const before = placeInWorld(setupHead(setup), key.place),
      now = placeInWorld(setupHead(setup), place);
    expect(now[0]).toBeCloseTo(before[0], 6);
    expect(now[2]).toBeCloseTo(before[2], 6);
    expect(now[1]).toBeCloseTo(setupHead(setup).origin[1] - 0.3, 6);
  });
});
