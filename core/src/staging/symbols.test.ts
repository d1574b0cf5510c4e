import { describe, expect, it } from '@jest/globals';
import {
  addFlagPatch,
  applyPatch,
  ball,
  flagOutline,
  flatView,
  hull,
  lightOutline,
  parseSetup,
  rectangle,
  removeFlagPatch,
  spot,
  sunFrom,
  sunOnPaper,
  tube,
  type Setup,
} from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', role: 'fill' }) });
const after = (s: Setup, patch: object): Setup => parseSetup(applyPatch(s, patch));

describe('symbols in PLAN and SIDE', () => {
  const plan = flatView(setup, 'plan'),
    side = flatView(setup, 'side');
  const wide = (points: [number, number][], k: 0 | 1) => Math.max(...points.map((p) => p[k])) - Math.min(...points.map((p) => p[k]));
  const place = { azimuth: 0, elevation: 0, distance: 2, aim: [0, 0, 0] as [number, number, number] };
  it('are to scale: a tube is long, a ball is round, a spot shows its beam', () => {
    const upright = lightOutline(side, tube({ length: 1.2, diameter: 0.04, place }));
    expect(wide(upright.body, 1)).toBeCloseTo(1.24, 2);
    const round = lightOutline(plan, ball({ diameter: 0.5, place }));
    expect(wide(round.body, 0)).toBeCloseTo(0.5, 2);
    expect(wide(round.body, 1)).toBeCloseTo(0.5, 2);
    const narrow = lightOutline(plan, spot({ angle: 20, place })),
      broad = lightOutline(plan, spot({ angle: 60, place }));
    expect(wide(broad.wedge, 0)).toBeGreaterThan(2 * wide(narrow.wedge, 0));
    expect(lightOutline(plan, rectangle({ roll: 90, width: 1, height: 0.2, place })).body.length).toBeGreaterThan(1);
  });
  it('flags are drawn as thick and wide as they are', () => {
    const flag = { ...Object.values(addFlagPatch(setup, 'key').patch['flags'] as { items: never }).at(-1) };
    expect(flag).toBeDefined();
    const { patch, id } = addFlagPatch(setup, undefined);
    const item = after(setup, patch).flags.items[id]!;
    const box = flagOutline(plan, { ...item, kind: 'box', width: 0.5, depth: 0.3, place: { ...place, distance: 1 } });
    expect([wide(box.body, 0), wide(box.body, 1)].map((v) => Number(v.toFixed(3)))).toEqual([0.5, 0.3]);
    expect(after(after(setup, patch), removeFlagPatch(id)).flags.items).toEqual({});
  });
  it('a sun stands at the edge where it comes from, and is dragged round and up', () => {
    const at = sunOnPaper(plan, { elevation: 10, bearing: 90 }, 2, 2);
    // +X is the picture's right for a camera on +Z
    expect(at[0]).toBeGreaterThan(1.5);
    expect(sunFrom(plan, { elevation: 10, bearing: 0 }, [1, 0]).bearing).toBe(90);
    expect(sunFrom(side, { elevation: 10, bearing: 0 }, [-1, 1]).elevation).toBeGreaterThan(30);
    expect(sunFrom(side, { elevation: 10, bearing: 0 }, [-1, -1]).elevation).toBe(-2);
  });
  it('hulls keep the corners and nothing else', () => {
    expect(
      hull([
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
        [0.5, 0.5],
        [0.5, 0],
      ]),
    ).toHaveLength(4);
  });
});
