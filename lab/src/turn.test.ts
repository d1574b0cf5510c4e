// Frames of a turn on a disk.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { applyPatch, type Setup } from '@plinket/core';
import { decode } from 'fast-png';
import { panelLight, setupWith } from '../../core/src/testing/setups.ts';
import { plinket } from './testing.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-turn-'));
const home = process.cwd();
afterAll(() => process.chdir(home));
beforeAll(() => {
  process.chdir(folder);
  writeFileSync(
    join(folder, 'bare.json'),
    JSON.stringify(
      setupWith(
        { key: panelLight() },
        {
          props: {
            items: {
              ball: { kind: 'ball', rank: 'a0', finish: 'grey', name: 'Ball', visible: true, position: [0.15, 1.5, 0.1], radius: 0.2 },
            },
          },
        },
      ),
    ),
  );
});
const digest = (file: string) =>
  createHash('sha256')
    .update(readFileSync(join(folder, file)))
    .digest('hex');

describe('plinket turn', () => {
  const turn = (...more: string[]) =>
    plinket(
      'turn',
      'bare.json',
      '--turning',
      'camera',
      '--out',
      'turns/bare.png',
      '--size',
      '24x30',
      '--samples',
      '1',
      '--bounces',
      '0',
      '--frames',
      '6',
      ...more,
    );
  const said = async (...more: string[]) => JSON.parse((await turn(...more)).stdout) as { frames: number; traced: number; kept: number };
  it('writes numbered frames, begun again only those that are missing, cut off or outdated', async () => {
    expect(await said()).toMatchObject({ frames: 6, traced: 6, kept: 0 });
    const names = readdirSync(join(folder, 'turns')).filter((f) => f.endsWith('.png'));
    expect(names.sort()).toEqual([1, 2, 3, 4, 5, 6].map((n) => `bare.000${n}.png`));
    const before = names.map((n) => digest(`turns/${n}`));
    expect(new Set(before).size).toBe(6);
    expect(await said()).toMatchObject({ traced: 0, kept: 6 });
    rmSync(join(folder, 'turns/bare.0002.png'));
    writeFileSync(join(folder, 'turns/bare.0005.png'), readFileSync(join(folder, 'turns/bare.0005.png')).subarray(0, 100));
    expect(await said()).toMatchObject({ traced: 2, kept: 4 });
    expect(names.map((n) => digest(`turns/${n}`))).toEqual(before);
    // what cannot be seen makes no frame outdated, what can be seen all
    const setup = JSON.parse(readFileSync(join(folder, 'bare.json'), 'utf8')) as Setup;
    writeFileSync(join(folder, 'bare.json'), JSON.stringify({ ...setup, brief: 'something else' }));
    expect(await said()).toMatchObject({ traced: 0 });
    writeFileSync(join(folder, 'bare.json'), JSON.stringify(applyPatch(setup, { lights: { items: { key: { stops: 1 } } } })));
    expect(await said('--only', '1,4-5')).toMatchObject({ frames: 3, traced: 3 });
    writeFileSync(join(folder, 'bare.json'), JSON.stringify(setup));
    // a movie of it, read by ffprobe: as many frames, their rate, even sides, a pixel format that all players know
    expect((await turn('--movie', 'turns/bare.mp4', '--fps', '30')).status).toBe(0);
    const probe = spawnSync(
      'ffprobe',
      ['-v', 'error', '-show_entries', 'stream=codec_name,width,height,pix_fmt,r_frame_rate,nb_frames', '-of', 'json', 'turns/bare.mp4'],
      { encoding: 'utf8' },
    );
    expect((JSON.parse(probe.stdout) as { streams: object[] }).streams[0]).toEqual({
      codec_name: 'h264',
      width: 24,
      height: 30,
      pix_fmt: 'yuv420p',
      r_frame_rate: '30/1',
      nb_frames: '6',
    });
    // nothing half-written is left
    expect(readdirSync(join(folder, 'turns')).filter((f) => f.startsWith('.'))).toEqual([]);
  }, 120_000);
  it('begins with what the still shows, the darkening where a ball rests on a catcher among it', async () => {
    const setup = JSON.parse(readFileSync(join(folder, 'bare.json'), 'utf8')) as Setup;
    const resting = applyPatch(setup, {
      props: { items: { ball: { position: [0, 0.2, 0] } } },
      stage: { kind: 'floor', floor: 0 },
      catcher: { objects: { stage: true }, without: {}, density: 1, colour: [0, 0, 0], contact: 1, bounce: false, mirror: false },
      plate: { kind: 'linear', from: [1, 1, 1], to: [1, 1, 1] },
      camera: { position: [0, 1.5, 2.5], target: [0, 0.1, 0] },
    });
    const pixels = async (of: Setup, name: string, command: string[]) => {
      writeFileSync(join(folder, 'resting.json'), JSON.stringify(of));
      const ran = await plinket(
        command[0]!,
        'resting.json',
        '--size',
        '24x30',
        '--samples',
        '2',
        '--out',
        `${name}.png`,
        ...command.slice(1),
      );
      expect([ran.status, ran.stderr]).toEqual([0, '']);
      return [...decode(readFileSync(join(folder, command[0] === 'turn' ? `${name}.0001.png` : `${name}.png`))).data];
    };
    const still = await pixels(resting, 'still', ['render']);
    const turned = await pixels(resting, 'turned', ['turn', '--frames', '3', '--only', '1', '--smooth', '0']);
    expect(turned).toEqual(still);
    const without = await pixels(applyPatch(resting, { catcher: { contact: 0 } }), 'without', ['render']);
    expect(without).not.toEqual(still);
  }, 60_000);
  it('refuses by name, and says how a movie is had where ffmpeg is missing', async () => {
    for (const [args, words] of [
      [['--frames', '0'], /--frames 0/],
      [['--frames', '10001'], /--frames 10001/],
      [['--fps', '23'], /--fps 23/],
      [['--turning', 'sofa'], /--turning sofa/],
      [['--only', '3-99'], /--only 3-99: frames go from 1 to 6/],
      [['--movie', 'x.avi'], /--movie/],
    ] as const) {
      const ran = await turn(...args);
      expect([ran.status, ran.stdout]).toEqual([2, '']);
      expect(ran.stderr).toMatch(words);
    }
    const path = process.env['PATH'];
    process.env['PATH'] = folder;
    try {
      const ran = await turn('--movie', 'x.mp4');
      expect([ran.status, ran.stderr]).toEqual([0, expect.stringContaining('ffmpeg is not installed')]);
    } finally {
      process.env['PATH'] = path;
    }
  }, 60_000);
});
