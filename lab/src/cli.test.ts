import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import {
  applyPatch,
  parseSetup,
  readGlb,
  readPngSetup,
  rectangleIrradiance,
  rectangleInWorld,
  setupHead,
  type RectangleLight,
  type Setup,
} from '@plinket/core';
import { Document, NodeIO } from '@gltf-transform/core';
import { decode } from 'fast-png';
import { PNG } from 'pngjs';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { panelLight, setupWith } from '../../core/src/testing/setups.ts';
import { plinket } from './testing.ts';

const bin = fileURLToPath(new URL('../bin/plinket.mjs', import.meta.url));
const keeper = fileURLToPath(new URL('../../demo/assets/keeper.glb', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'plinket-cli-'));
/** The command line as a process of its own. */
const spawned = (...args: string[]) => spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder });
const home = process.cwd();
const digest = (file: string) =>
  createHash('sha256')
    .update(readFileSync(join(folder, file)))
    .digest('hex');

let bare: Setup;
afterAll(() => process.chdir(home));
beforeAll(async () => {
  process.chdir(folder);
  bare = setupWith({
    key: panelLight(),
    fill: panelLight({ name: 'Fill', kelvin: 3000, place: { azimuth: -50, elevation: 0, distance: 2, aim: [0, 0, 0] } }),
  });
  writeFileSync(join(folder, 'bare.json'), JSON.stringify(bare));
  const { head } = await readGlb(readFileSync(keeper));
  const subjects = {
    items: {
      k: {
        rank: 'a0',
        name: 'K',
        asset: createHash('sha256').update(readFileSync(keeper)).digest('hex'),
        visible: true,
        position: [0, 0, 0] as [number, number, number],
        turn: 0,
        scale: 1,
        head,
        materials: {},
      },
    },
  };
  writeFileSync(join(folder, 'keeper.json'), JSON.stringify({ ...bare, subjects }));
});

describe('plinket usd', () => {
  it('writes a setup as .usda, says what is lost, and brings it back', async () => {
    const out = await plinket('usd', 'keeper.json', '--out', 'k.usda');
    expect([out.status, out.stderr]).toEqual([0, '']);
    expect((JSON.parse(out.stdout) as { withoutCounterpart: string[] }).withoutCounterpart.join()).toContain('Surfaces: ');
    const text = readFileSync(join(folder, 'k.usda'), 'utf8');
    expect(text).toMatch(/^#usda 1\.0/);
    expect(text).toContain('def Mesh "skin"');
    writeFileSync(join(folder, 'dark.json'), JSON.stringify({ ...bare, lights: { items: {} } }));
    const back = await plinket('usd', 'dark.json', '--from', 'k.usda', '--out', 'lit.json');
    expect(JSON.parse(back.stdout)).toEqual({ file: 'k.usda', lights: 2, camera: true, changed: [], left: [] });
    const lit = parseSetup(JSON.parse(readFileSync(join(folder, 'lit.json'), 'utf8')));
    // without the keeper they stand around another head, but where they stood
    expect(Object.keys(lit.lights.items).sort()).toEqual(['fill', 'key']);
    expect(lit.lights.items['key']!.kelvin).toBe(bare.lights.items['key']!.kelvin);
  });
  it('refuses by name', async () => {
    writeFileSync(join(folder, 'bad.usda'), 'PXR-USDC');
    expect((await plinket('usd', 'bare.json', '--from', 'bad.usda', '--out', 'x.json')).stderr).toContain('binary USD');
    expect((await plinket('usd', 'bare.json', '--from', 'gone.usda', '--out', 'x.json')).stderr).toContain('no such file');
    expect((await plinket('usd', 'bare.json', '--out', 'x.obj')).stderr).toContain('.usda');
  });
});

describe('plinket render', () => {
  it('writes a PNG that carries its setup, the same bytes with one worker and two', async () => {
    for (const [out, workers] of [
      ['a.png', '1'],
      ['b.png', '2'],
    ] as const) {
      const ran = spawned('render', 'keeper.json', '--size', '40x50', '--samples', '4', '--workers', workers, '--out', out);
      expect(ran.stderr).toBe('');
      expect(ran.status).toBe(0);
    }
    expect(digest('a.png')).toBe(digest('b.png'));
    const png = readFileSync(join(folder, 'a.png'));
    expect(decode(png)).toMatchObject({ width: 40, height: 50 });
    expect(readPngSetup(png)!.lights).toEqual(bare.lights);
  });

  it('writes an EXR whose shares add up to the picture, read by an independent reader', async () => {
    expect((await plinket('render', 'bare.json', '--size', '24x16', '--samples', '4', '--out', 'all.exr')).status).toBe(0);
    const header = readFileSync(join(folder, 'all.exr')).subarray(0, 600).toString('latin1');
    for (const name of ['A', 'R', 'key.diffuse.R', 'key.specular.B', 'fill.diffuse.G']) expect(header).toContain(`${name}\0`);
    const read = (file: string) =>
      new EXRLoader().setDataType(FloatType).parse(Uint8Array.from(readFileSync(join(folder, file))).buffer) as unknown as {
        data: Float32Array;
      };
    for (const share of ['key', 'fill'])
      expect(
        (await plinket('render', 'bare.json', '--size', '24x16', '--samples', '4', '--share', share, '--out', `${share}.exr`)).status,
      ).toBe(0);
    const [all, key, fill] = ['all.exr', 'key.exr', 'fill.exr'].map((f) => read(f).data);
    let sum = 0;
    all!.forEach((v, i) => {
      if (i % 4 === 3) return;
      expect(key![i]! + fill![i]!).toBeCloseTo(v, 5);
      sum += v;
    });
    expect(sum).toBeGreaterThan(1);
  }, 120_000);

  it('writes no layers of a light that is off, so that the layers are the picture', async () => {
    const off = applyPatch(bare, { lights: { items: { fill: { on: false } } } });
    writeFileSync(join(folder, 'off.json'), JSON.stringify(off));
    expect((await plinket('render', 'off.json', '--size', '24x16', '--samples', '4', '--out', 'off.exr')).status).toBe(0);
    const header = readFileSync(join(folder, 'off.exr')).subarray(0, 600).toString('latin1');
    expect(header).toContain('key.diffuse.R\0');
    expect(header).not.toContain('fill.');
  }, 60_000);

  it('cuts out what is there and the shadows on what catches them: alpha by a second reader, 8 bit and 16, an EXR with each light’s own', async () => {
    // a ball over a floor that catches, under a panel, seen from above
    const shadows = applyPatch(bare, {
      lights: { items: { key: { place: { azimuth: 0, elevation: 80 } }, fill: { on: false } } },
      stage: { kind: 'floor', floor: 0, width: 8, front: 4, back: 4 },
      props: {
        items: { ball: { kind: 'ball', rank: 'a0', finish: 'grey', name: 'Ball', visible: true, position: [0, 0.3, 0], radius: 0.3 } },
      },
      catcher: { objects: { stage: true }, without: {}, density: 1, colour: [0, 0, 0], contact: 0, bounce: false, mirror: false },
      camera: { position: [0, 3, 3], target: [0, 0.2, 0], focal: 50, aspect: 1 },
    });
    writeFileSync(join(folder, 'shadows.json'), JSON.stringify(shadows));
    const cut = async (out: string, ...how: string[]) => {
      expect((await plinket('render', 'shadows.json', '--size', '32x32', '--samples', '4', '--out', out, ...how)).status).toBe(0);
      return readFileSync(join(folder, out));
    };
    const both = PNG.sync.read(await cut('both.png', '--cut', 'all')),
      figure = PNG.sync.read(await cut('figure.png', '--cut', 'figure')),
      shadow = PNG.sync.read(await cut('shadow.png', '--cut', 'shadow'));
    const alpha = (png: { data: Buffer }) => Array.from({ length: 32 * 32 }, (_, p) => png.data[p * 4 + 3]!);
    const all = alpha(both),
      body = alpha(figure),
      dark = alpha(shadow);
    expect(body.filter((a) => a === 255).length).toBeGreaterThan(40);
    expect(dark.filter((a) => a > 60).length).toBeGreaterThan(5);
    const most = (off: (a: number, p: number) => number) => Math.max(...all.map((a, p) => Math.abs(off(a, p))));
    expect(most((a, p) => a - Math.min(255, body[p]! + dark[p]!))).toBeLessThanOrEqual(1);
    // the corners see floor in full light: nothing
    expect([all[0], all[31]]).toEqual([0, 0]);
    const deep = await cut('deep.png', '--cut', 'all', '--bits', '16', '--premultiplied');
    expect(deep.readUInt8(24)).toBe(16);
    expect(deep.toString('latin1')).toContain('colours are multiplied with alpha');
    const sixteen = PNG.sync.read(deep);
    const again = alpha(sixteen);
    expect(most((a, p) => a - again[p]!)).toBeLessThanOrEqual(1);
    expect((await plinket('render', 'shadows.json', '--out', 'x.png', '--cut', 'hair')).stderr).toContain('--cut hair');
    await cut('shadows.exr');
    const header = readFileSync(join(folder, 'shadows.exr')).subarray(0, 900).toString('latin1');
    for (const name of ['shadow.key.R', 'key.arrives.G', 'key.open.B']) expect(header).toContain(`${name}\0`);
    const exr = new EXRLoader()
      .setDataType(FloatType)
      .parse(Uint8Array.from(readFileSync(join(folder, 'shadows.exr'))).buffer) as unknown as { data: Float32Array };
    // rows from below
    expect(most((a, p) => exr.data[((31 - Math.floor(p / 32)) * 32 + (p % 32)) * 4 + 3]! - a / 255)).toBeLessThan(0.01);
  }, 120_000);

  it('writes what the first surfaces are when it is asked to', async () => {
    const layers = 'depth,normal,albedo,position,identity,noise,samples,openness';
    expect(
      (await plinket('render', 'bare.json', '--size', '24x16', '--samples', '4', '--layers', layers, '--out', 'layers.exr')).status,
    ).toBe(0);
    const header = readFileSync(join(folder, 'layers.exr')).subarray(0, 3000).toString('latin1');
    for (const name of [
      'depth.Z',
      'normal.Y',
      'albedo.G',
      'position.X',
      'identity.object',
      'key.diffuse.variance',
      'key.samples',
      'openness.Y',
    ])
      expect(header).toContain(`${name}\0`);
    expect(header).toContain('backdrop');
    expect((await plinket('render', 'bare.json', '--layers', 'smell', '--out', 'x.exr')).stderr).toContain('--layers smell:');
  });

  it('limits fireflies only when asked to, and says what that took', async () => {
    const ran = await plinket('render', 'bare.json', '--size', '24x16', '--samples', '4', '--clamp', '0.001', '--out', 'clamped.png');
    expect(ran.stderr).toMatch(/The clamp took \d+\.\d\d % of the indirect light\./);
    expect((await plinket('render', 'bare.json', '--clamp', '-1', '--out', 'x.png')).stderr).toContain('--clamp -1');
  });

  it('develops through a look-up table, and names the line of one that is broken', async () => {
    writeFileSync(
      join(folder, 'swap.cube'),
      'LUT_3D_SIZE 2\n' + [0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${b} ${g} ${r}`))).join('\n'),
    );
    for (const [out, more] of [
      ['plain.png', []],
      ['swapped.png', ['--lut', 'swap.cube']],
    ] as const)
      expect((await plinket('render', 'bare.json', '--size', '24x16', '--samples', '2', '--out', out, ...more)).stderr).toBe('');
    const [plain, swapped] = ['plain.png', 'swapped.png'].map((f) => decode(readFileSync(join(folder, f))).data);
    for (let i = 0; i < plain!.length; i += 4) expect(Math.abs(plain![i]! - swapped![i + 2]!)).toBeLessThanOrEqual(1);
    writeFileSync(join(folder, 'bad.cube'), 'LUT_3D_SIZE 2\n0 0 nonsense\n');
    const ran = await plinket('render', 'bare.json', '--lut', 'bad.cube', '--out', 'x.png');
    expect(ran.status).toBe(1);
    expect(ran.stderr).toContain('Line 2:');
  });

  it.each<[string, string[], RegExp]>([
    ['no such file', ['render', 'ghost.json', '--out', 'x.png'], /ghost\.json: there is no such file/],
    ['no output', ['render', 'bare.json'], /--out needs a file/],
    ['a strange size', ['render', 'bare.json', '--out', 'x.png', '--size', 'big'], /--size big/],
    ['a share that is not there', ['render', 'bare.json', '--out', 'x.png', '--share', 'rim'], /the setup has key, fill/],
    ['an unknown command', ['paint'], /“paint” is not a command/],
    ['an unknown option', ['render', 'bare.json', '--colour', 'x'], /--colour/],
  ])('says what is wrong: %s', async (_name, args, message) => {
    const ran = await plinket(...args);
    expect(ran.status).toBe(2);
    expect(ran.stderr).toMatch(message);
  });

  it('names the field of a setup that breaks the schema', async () => {
    writeFileSync(join(folder, 'broken.json'), JSON.stringify({ ...bare, camera: { ...bare.camera, focal: 'long' } }));
    const ran = spawned('render', 'broken.json', '--out', 'x.png');
    expect(ran.status).toBe(1);
    expect(ran.stderr).toContain('camera.focal:');
  });
});

describe('plinket inspect', () => {
  it('tells metres, triangles, parts, facing and landmarks of the keeper', async () => {
    const report = JSON.parse((await plinket('inspect', keeper)).stdout);
    expect(report.metres.height).toBeCloseTo(0.531, 2);
    expect(report.triangles).toBe(report.parts.reduce((n: number, p: { triangles: number }) => n + p.triangles, 0));
    expect(report.facing[2]).toBeGreaterThan(0.99);
    expect(report.landmarks.noseTip).toHaveLength(3);
  });
  it('reads a .gltf with the buffer beside it, and names it when it is not there', async () => {
    const d = new Document();
    const buffer = d.createBuffer().setURI('wedge.bin');
    const positions = d
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
      .setBuffer(buffer);
    d.createScene('Wedge').addChild(
      d.createNode('wedge').setMesh(d.createMesh().addPrimitive(d.createPrimitive().setAttribute('POSITION', positions))),
    );
    const { json, resources } = await new NodeIO().writeJSON(d);
    writeFileSync(join(folder, 'wedge.gltf'), JSON.stringify(json));
    const alone = await plinket('inspect', 'wedge.gltf');
    expect(alone.status).toBe(1);
    expect(alone.stderr).toContain('wedge.gltf needs wedge.bin');
    writeFileSync(join(folder, 'wedge.bin'), resources['wedge.bin']!);
    expect(JSON.parse((await plinket('inspect', 'wedge.gltf')).stdout)).toMatchObject({ triangles: 1, metres: { width: 1, height: 1 } });
  });
  it('says why a file cannot be read', async () => {
    writeFileSync(join(folder, 'cut.glb'), readFileSync(keeper).subarray(0, 1000));
    const ran = await plinket('inspect', 'cut.glb');
    expect(ran.status).toBe(1);
    expect(ran.stderr).toMatch(/cut off/);
  });
});

describe('plinket probe', () => {
  it('measures lux as the closed form says, by light', async () => {
    // a point before the backdrop's floor, without anything between
    const ran = await plinket('probe', 'bare.json', '--point', '-0.5,1.2,0.4', '--normal', '0,0.3,1', '--samples', '4096');
    expect(ran.stderr).toBe('');
    const result = JSON.parse(ran.stdout) as {
      unit: string;
      lights: { id: string; direct: number; total: number }[];
      direct: number;
      total: number;
    };
    expect(result.unit).toBe('lux');
    const setup = parseSetup(bare);
    for (const { id, direct, total } of result.lights) {
      const light = setup.lights.items[id] as RectangleLight;
      const E = rectangleIrradiance(rectangleInWorld(setupHead(setup), light), [-0.5, 1.2, 0.4], [0, 0.3, 1]) * light.output.value;
      expect(direct / E).toBeCloseTo(1, 2);
      expect(total).toBeGreaterThan(direct);
    }
    expect(result.direct).toBeCloseTo(result.lights[0]!.direct + result.lights[1]!.direct, 6);
  });
  it('wants three numbers', async () => {
    expect((await plinket('probe', 'bare.json', '--point', '1,2', '--normal', '0,1,0')).stderr).toContain(
      '--point needs three numbers x,y,z.',
    );
  });
});

describe('plinket read', () => {
  let atRest = 0;
  it('reads the face of a setup: numbers first, then the same in sentences', async () => {
    const { stdout, status, stderr } = await plinket('read', 'keeper.json', '--samples', '16');
    expect(stderr).toBe('');
    expect(status).toBe(0);
    const reading = JSON.parse(stdout) as {
      subject: string;
      key: { id: string };
      byKey: { pattern: string; reasons: { claim: string; holds: boolean }[] }[];
      ratio: { value: number; stops: number };
      features: { lit: number };
      words: string[];
    };
    atRest = reading.features.lit;
    expect(reading.subject).toBe('K');
    expect(reading.key.id).toBe('key');
    // a key 40° round and 35° up on a face with this nose
    expect(['closed triangle', 'loop']).toContain(reading.byKey[0]!.pattern);
    expect(reading.byKey[0]!.reasons.filter((r) => r.holds).length).toBeGreaterThan(3);
    expect(2 ** reading.ratio.stops).toBeCloseTo(reading.ratio.value, 6);
    expect(reading.words.join(' ')).toMatch(/by Key\. The nose’s shadow slants \d+° to the figure’s right/);
  });
  it('reads another moment of a clip, and says where there is none', async () => {
    const still = parseSetup(JSON.parse(readFileSync(join(folder, 'keeper.json'), 'utf8')));
    const [clip] = (await readGlb(readFileSync(keeper))).rig!.clips;
    const posed = applyPatch(still, { subjects: { items: { k: { pose: { clip: clip!.name, time: 0 } } } } });
    writeFileSync(join(folder, 'posed.json'), JSON.stringify(posed));
    const frame = String(Math.round(clip!.duration * 12));
    const { stdout } = await plinket('read', 'posed.json', '--samples', '4', '--frame', frame);
    // the clip looks up from how the figure stands at rest
    expect(Math.abs((JSON.parse(stdout) as { features: { lit: number } }).features.lit - atRest)).toBeGreaterThan(0.01);
    const { stderr, status } = await plinket('read', 'keeper.json', '--frame', '3');
    expect(stderr).toContain('K has no clip');
    expect(status).toBe(2);
  });
  it('a setup without a figure has no face, and says so', async () => {
    const { stderr, status } = await plinket('read', 'bare.json');
    expect(stderr).toMatch(/no face to read/);
    expect(status).toBe(2);
  });
});
