import { describe, expect, it } from '@jest/globals';
import { dome, makeEnvironment } from '@plinket/core';
import { setupWith } from '../../../core/src/testing/setups.ts';
import type { Characters } from './characters.ts';
import { StageFiles } from './files.ts';

const CUBE = 'LUT_3D_SIZE 2\n' + Array.from({ length: 8 }, (_, i) => `${i & 1} ${(i >> 1) & 1} ${i >> 2}`).join('\n');
const lut = 'c'.repeat(64),
  asset = 'a'.repeat(64);

const SKY = makeEnvironment('sky', 2, 1, new Float32Array(6).fill(1));
const LIGHT_DOME = { ...dome({ name: 'Sky' }), rank: 'a0', fill: { kind: 'picture', asset, name: 'sky.exr', layer: '' } };

describe('the files of a setup', () => {
  const base = setupWith();
  const figure = (visible: boolean) => ({
    items: {
      f: { name: 'F', asset, visible, position: [0, 0, 0] as [number, number, number], turn: 0, scale: 1, head: undefined, materials: {} },
    },
  });
  const made = () => {
    const asked: string[] = [];
    const characters = { load: (sha: string, name: string) => Promise.resolve(void asked.push(`${name} ${sha[0]}`)) };
    const files = new StageFiles(characters as unknown as Characters, (sha, what) => {
      asked.push(`${what} ${sha[0]}`);
      return Promise.resolve(new TextEncoder().encode(CUBE));
    });
    return { files, asked };
  };

  it('are fetched once, and those of a figure that is out of sight not at all', async () => {
    const { files, asked } = made();
    const setup = { ...base, look: { ...base.look, lut }, subjects: figure(true) } as unknown as typeof base;
    await files.fetch(setup);
    await files.fetch(setup);
    // the characters' own shelf remembers what it has
    expect(asked).toEqual(['F a', 'The look-up table c', 'F a']);
    asked.length = 0;
    await files.fetch({ ...setup, subjects: figure(false) } as unknown as typeof base);
    expect(asked).toEqual([]);
  });
  it('of lights are read elsewhere, once for all who want one meanwhile, and by layer', async () => {
    const under = (layer: string) =>
      ({
        ...base,
        lights: { items: { d: { ...LIGHT_DOME, fill: { kind: 'picture', asset, name: 'sky.exr', layer } } } },
      }) as unknown as typeof base;
    const read: string[] = [];
    const done: (() => void)[] = [];
    const files = new StageFiles(
      { load: () => Promise.resolve() } as unknown as Characters,
      () => Promise.resolve(new Uint8Array(1)),
      (_bytes, sha256, use, what) => {
        read.push(`${what} ${sha256[0]} ${JSON.stringify(use)}`);
        return new Promise((resolve) => done.push(() => resolve(SKY)));
      },
    );
    const both = [files.fetch(under('')), files.fetch(under(''))];
    while (!done.length) await Promise.resolve();
    done[0]!();
    await Promise.all(both);
    expect(read).toEqual(['The file of Sky a {"kind":"environment","layer":""}']);
    expect(files.lights.environment(asset, '')).toBe(SKY);
    const other = files.fetch(under('night'));
    while (done.length < 2) await Promise.resolve();
    done[1]!();
    await other;
    expect(read).toHaveLength(2);
  });
  it('that a light cannot use are said, and asked for again', async () => {
    let good = false;
    const files = new StageFiles(
      { load: () => Promise.resolve() } as unknown as Characters,
      () => Promise.resolve(new Uint8Array(1)),
      () => (good ? Promise.resolve(SKY) : Promise.reject(new Error('The file of Sky was read for 60 s and given up.'))),
    );
    const setup = { ...base, lights: { items: { d: LIGHT_DOME } } } as unknown as typeof base;
    await expect(files.fetch(setup)).rejects.toThrow('given up');
    good = true;
    await files.fetch(setup);
    expect(files.lights.environment(asset, '')).toBe(SKY);
  });
  it('give a look its table once it is there', async () => {
    const { files } = made();
    const look = { ...base.look, lut };
    expect(files.cube(look)).toBeUndefined();
    await files.fetch({ ...base, look });
    expect(files.cube(look)).toMatchObject({ size: 2 });
    expect(files.cube(base.look)).toBeUndefined();
  });
  it('that are no table are refused, and asked for again', async () => {
    let text = 'nonsense';
    const files = new StageFiles({ load: () => Promise.resolve() } as unknown as Characters, () =>
      Promise.resolve(new TextEncoder().encode(text)),
    );
    const setup = { ...base, look: { ...base.look, lut } };
    await expect(files.fetch(setup)).rejects.toThrow();
    text = CUBE;
    await files.fetch(setup);
    expect(files.cube(setup.look)).toBeDefined();
  });
});
