import { describe, expect, it } from '@jest/globals';
import { setupWith } from '../../../core/src/testing/setups.ts';
import type { Characters } from './characters.ts';
import { StageFiles } from './files.ts';

const CUBE = 'LUT_3D_SIZE 2\n' + Array.from({ length: 8 }, (_, i) => `${i & 1} ${(i >> 1) & 1} ${i >> 2}`).join('\n');
const lut = 'c'.repeat(64),
  asset = 'a'.repeat(64);

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
