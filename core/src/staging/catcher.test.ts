import { describe, expect, it } from '@jest/globals';
import { compileCamera } from '../scene/index.ts';
import { applyPatch, isCatcher, parseSetup, type Patch, type Setup } from '../setup/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { catcherOddities, catcherPatch, catchPatch, horizonOf, plateCameraPatch, shadowStagePatch } from './catcher.ts';

const setup = setupWith({ key: panelLight() });
const done = (patch: Patch, from: Setup = setup): Setup => parseSetup(JSON.parse(JSON.stringify(applyPatch(from, patch))));

describe('what catches shadows', () => {
  it('is named by object; the whole takes the place of its parts; all of it stays a setup', () => {
    const part = done(catchPatch(setup, 'stage/backdrop', true));
    expect([isCatcher(part.catcher, 'stage/backdrop'), isCatcher(part.catcher, 'stage/front')]).toEqual([true, false]);
    const whole = done(catchPatch(part, 'stage', true), part);
    expect(whole.catcher!.objects).toEqual({ stage: true });
    expect(isCatcher(whole.catcher, 'stage/front')).toBe(true);
    expect(done(catchPatch(whole, 'stage', false), whole).catcher!.objects).toEqual({});
    // what was set stays when something is set
    expect(done(catcherPatch(whole, { density: 0.5 }), whole).catcher).toMatchObject({ density: 0.5, objects: { stage: true } });
  });
  it('a stage without a floor but its shadow: a floor that catches, over squares unless something was laid there', () => {
    const ready = done(shadowStagePatch(setup));
    expect([ready.stage.kind, ready.plate.kind, ready.catcher!.objects]).toEqual(['floor', 'checker', { stage: true }]);
    const own = done({ plate: { kind: 'linear' } });
    expect(done(shadowStagePatch(own), own).plate).toEqual(own.plate);
  });
  it('says what is odd', () => {
    const objects = ['subjects/a/Skin', 'stage/backdrop'];
    const odd = (...patches: Patch[]) =>
      catcherOddities(
        patches.reduce<Setup>((s, p) => applyPatch(s, p), setup),
        objects,
      ).join(' ');
    const stage = catchPatch(setup, 'stage', true);
    expect(odd()).toBe('');
    expect(odd(stage)).toBe('');
    expect(odd(catchPatch(setup, 'props/gone', true))).toContain('Nothing that catches is here');
    expect(odd(catchPatch(setup, 'subjects/a', true))).toContain('show only the shadows on them');
    expect(odd(stage, catchPatch(applyPatch(setup, stage), 'subjects/a', true))).toContain('nothing left');
    const bright = (part: string) => ({
      subjects: { items: { a: subjectWith({ materials: { [part]: { emission: 100 } } }) as unknown as Patch } },
    });
    expect(odd(catchPatch(setup, 'subjects/a/Lamp', true), bright('Lamp'))).toContain('light of its own');
    expect(odd(catchPatch(setup, 'subjects/a/Lamp', true), bright('Skin'))).not.toContain('light of its own');
    expect(odd(stage, { catcher: { without: { key: true } } })).toContain('No light');
    expect(odd(stage, { lights: { items: { key: { on: false } } } })).toContain('No light');
  });
});

describe('the camera of a picture', () => {
  /** Where a point lies in the picture, by height: through the camera as rays have it. */
  const seenAt = (s: Setup, point: [number, number, number]): number => {
    const { origin, forward, up, halfHeight } = compileCamera(s);
    const d = point.map((v, i) => v - origin[i]!);
    const dot = (a: readonly number[]) => a.reduce((sum, v, i) => sum + v * d[i]!, 0);
    return (1 - dot(up) / dot(forward) / halfHeight) / 2;
  };
  it.each([
    [1.6, 4, 0],
    [1.6, 4, -9],
    [0.4, 6, 7],
    [3, 8, -20],
  ])('is found again from its horizon and one upright length: %s m high, %s m away, tilted %s°', (height, far, tilt) => {
    const truth = applyPatch(setup, {
      camera: {
        position: [0, height, far],
        target: [0, height + Math.tan((tilt * Math.PI) / 180) * far, 0],
        focal: 35,
        sensor: 24,
        roll: 0,
      },
      stage: { floor: 0 },
    });
    // something of 1.8 m that stands two metres before the middle of the stage
    const foot = seenAt(truth, [0, 0, 2]),
      top = seenAt(truth, [0, 1.8, 2]);
    const blank = applyPatch(truth, { camera: { position: [0, 1, far], target: [0, 1.2, 0] } });
    const found = applyPatch(blank, plateCameraPatch(blank, { horizon: horizonOf(truth), foot, top, length: 1.8 }));
    expect(found.camera.position[1]).toBeCloseTo(height, 2);
    expect(horizonOf(found)).toBeCloseTo(horizonOf(truth), 3);
    expect(seenAt(found, [0, 0, 2])).toBeCloseTo(foot, 2);
  });
  it('refuses lines that say nothing', () => {
    const view = { horizon: 0.4, foot: 0.8, top: 0.3, length: 1.8 };
    expect(() => plateCameraPatch(setup, { ...view, foot: 0.3 })).toThrow('below the horizon');
    expect(() => plateCameraPatch(setup, { ...view, top: 0.9 })).toThrow('below the top');
    expect(() => plateCameraPatch(setup, { ...view, length: 0 })).toThrow('length');
  });
});
