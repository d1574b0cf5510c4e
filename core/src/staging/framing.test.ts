import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { applyPatch, compile, compileCamera, distance, parseSetup, setupHead, STAGE_DEFAULTS, type Setup } from '../index.ts';
import { setupWith } from '../testing/setups.ts';
import { coverPatch, dollyPatch, lensPatch, orbitPatch, panPatch, shotPatch, SHOTS } from './framing.ts';
import { STAGES, stagePatch } from './stages.ts';

const setup = setupWith({});
const after = (patch: object, from = setup): Setup => parseSetup(applyPatch(from, patch));
/** Where a point falls in the frame: −1…1 across and up. */
function seen(s: Setup, p: number[]): [number, number] {
  const { origin, forward, right, up, halfHeight, aspect } = compileCamera(s);
  const d = p.map((v, k) => v - origin[k]!);
  const dot = (a: number[]) => d.reduce((n, v, k) => n + v * a[k]!, 0);
  return [dot(right) / dot(forward) / halfHeight / aspect, dot(up) / dot(forward) / halfHeight];
}

describe('shots', () => {
  it.each(SHOTS)('%s holds the crown and as much below it as it says', (_name, heads) => {
    const framed = after(shotPatch(setup, heads));
    const head = setupHead(framed);
    const top = head.origin[1] + 0.8 * head.headHeight;
    expect(seen(framed, [head.origin[0], top, head.origin[2]])[1]).toBeCloseTo(1, 1);
    expect(seen(framed, [head.origin[0], top - heads * head.headHeight, head.origin[2]])[1]).toBeCloseTo(-1, 1);
    expect(seen(framed, head.origin)[0]).toBeCloseTo(0, 6);
  });
  it('come from the side where the camera stood', () => {
    const aside = after({ camera: { position: [2, 1.5, 2] } });
    const { position } = after(shotPatch(aside, 4), aside).camera;
    expect(position[0] / position[2]).toBeCloseTo(1, 1);
  });
});

describe('what is sharp', () => {
  const open = after({ camera: { lens: { fNumber: 2, focus: distance(setup.camera.position, setup.camera.target) + 0.1 } } });
  /** How far behind what is looked at the plane in focus lies. */
  const behind = ({ camera }: Setup) => camera.lens.focus - distance(camera.position, camera.target);
  it.each<[string, (s: Setup) => object]>([
    ['a shot is framed', (s) => shotPatch(s, 2.7)],
    ['the camera comes nearer', (s) => dollyPatch(s, 0.6)],
    ['another lens keeps the figure’s size', (s) => lensPatch(s, 85, true)],
    ['the camera goes round', (s) => orbitPatch(s, 30, 5)],
    ['the camera goes aside', (s) => panPatch(s, 0.2, 0.1)],
  ])('stays sharp when %s', (_name, move) => {
    expect(behind(after(move(open), open))).toBeCloseTo(0.1, 2);
  });
  it('is nobody’s business where everything is sharp', () => {
    expect(JSON.stringify(dollyPatch(setup, 0.5))).not.toContain('lens');
  });
});

describe('moves of the camera', () => {
  it('another lens that keeps the figure’s size moves back as far as it is longer', () => {
    const long = after(lensPatch(setup, 100, true));
    expect(distance(long.camera.position, long.camera.target)).toBeCloseTo(2 * distance(setup.camera.position, setup.camera.target), 3);
    expect(seen(long, [0.2, 1.2, 0])[0]).toBeCloseTo(seen(setup, [0.2, 1.2, 0])[0], 2);
    expect(lensPatch(setup, 100, false)).toEqual({ camera: { focal: 100 } });
  });
  it('round its target it keeps its distance', () => {
    const turned = after(orbitPatch(setup, 90, 10));
    expect(distance(turned.camera.position, turned.camera.target)).toBeCloseTo(distance(setup.camera.position, setup.camera.target), 3);
    expect(turned.camera.position[0]).toBeGreaterThan(2.5);
    expect(Math.abs(after(orbitPatch(setup, 0, 500)).camera.position[2])).toBeLessThan(1);
  });
  it('aside it moves with its target, by heights of the frame', () => {
    const moved = after(panPatch(setup, 0, 0.5));
    expect(seen(moved, setup.camera.target)[1]).toBeCloseTo(-1, 2);
    expect(distance(moved.camera.position, setup.camera.position)).toBeCloseTo(distance(moved.camera.target, setup.camera.target), 3);
  });
  it('nearer and further it looks at the same point', () => {
    const near = after(dollyPatch(setup, 0.5));
    expect(distance(near.camera.position, near.camera.target)).toBeCloseTo(distance(setup.camera.position, setup.camera.target) / 2, 3);
    expect(near.camera.target).toEqual(setup.camera.target);
  });
});

describe('a stage that the frame sees past', () => {
  const wide = after({ camera: { focal: 18, aspect: 1.7778 } });
  it.each(['sweep', 'corner', 'flat', 'floor'] as const)('%s is widened once, and then fills the frame', (kind) => {
    const short = after({ stage: { ...STAGE_DEFAULTS, kind, width: 1.5, height: 1.6, front: 0.5 } }, wide);
    const patch = coverPatch(short);
    expect(patch).toBeDefined();
    expect(coverPatch(after(patch!, short))).toBeUndefined();
  });
  it('a large one, a room and nothing need no mending', () => {
    expect(coverPatch(setup)).toBeUndefined();
    expect(coverPatch(after({ stage: { kind: 'room' } }, wide))).toBeUndefined();
    expect(coverPatch(after({ stage: { kind: 'none' } }, wide))).toBeUndefined();
  });
});

describe('stages that are ready', () => {
  it.each(STAGES)('$name has its picture', ({ id }) => {
    // a PNG says its width and height at byte 16
    const png = readFileSync(new URL(`../../../web/src/stage/presets/${id}.png`, import.meta.url));
    expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([112, 80]);
  });
  it.each(STAGES)('$name is whole and can be compiled', (preset) => {
    const next = after(stagePatch(preset));
    expect(compile(next, () => undefined).geometry.mesh.positions.length).toBeGreaterThanOrEqual(0);
    expect(next.plate.kind).toBe((preset.plate as { kind: string } | undefined)?.kind ?? 'none');
  });
  it('are at least eight, with names of their own', () => {
    expect(STAGES.length).toBeGreaterThanOrEqual(8);
    expect(new Set(STAGES.map((s) => s.name)).size).toBe(STAGES.length);
  });
});
