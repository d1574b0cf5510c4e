import { describe, expect, it } from '@jest/globals';
import { readGlb, standIn, writeGlb } from '@plinket/core';
import { Characters } from './characters.ts';

/** A server that keeps one figure, counts how often it is asked, and fails as often as it is told. */
async function shelf(failures = 0) {
  const glb = await writeGlb(standIn('bust'), 'x');
  const asked: string[] = [];
  let left = failures;
  const characters = new Characters((sha256, what) => {
    asked.push(what);
    return left-- > 0
      ? Promise.reject(new Error(`${what} cannot be loaded (503).`))
      : Promise.resolve(sha256 === 'bust' ? glb : new Uint8Array(4));
  }, {});
  return { characters, asked };
}

describe('characters of the engine', () => {
  it('are fetched and read once, however many ask at the same time', async () => {
    const { characters, asked } = await shelf();
    const [a, b, proxy] = await Promise.all([
      characters.load('bust', 'Bust'),
      characters.load('bust', 'Bust'),
      characters.proxy('bust', 'Bust', undefined),
    ]);
    expect(asked).toEqual(['The file of Bust']);
    expect(a).toBe(b);
    expect(characters.known.get('bust')).toBe(a);
    expect(proxy.indices.length).toBeGreaterThan(0);
  });
  it('that could not be had are asked for again', async () => {
    const { characters, asked } = await shelf(1);
    await expect(characters.load('bust', 'Bust')).rejects.toThrow('The file of Bust cannot be loaded (503).');
    expect(characters.known.size).toBe(0);
    await characters.load('bust', 'Bust');
    expect(asked).toHaveLength(2);
  });
  it('that are broken say why', async () => {
    const { characters } = await shelf();
    await expect(characters.load('other', 'Other')).rejects.toThrow('This is not a GLB file');
  });
  it('stand-ins are whole characters with landmarks', async () => {
    const { characters } = await shelf();
    for (const kind of ['figure', 'knot'] as const) {
      const { report, glb } = await characters.standIn(kind);
      expect(report.head.source).toBe('file');
      expect((await readGlb(new Uint8Array(glb), 'x.glb')).name).toBe(report.name);
    }
  });
});
