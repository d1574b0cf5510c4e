import { describe, expect, it } from '@jest/globals';
import { NO_MENDING, readGlb, standIn, writeGlb } from '@plinket/core';
import { Characters } from './characters.ts';

const buffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;
const text = (words: string): ArrayBuffer => buffer(new TextEncoder().encode(words));

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
});

describe('bringing in', () => {
  it('an OBJ with its materials becomes a GLB that reads the same', async () => {
    const { characters } = await shelf();
    const obj = 'mtllib a.mtl\no sheet\nusemtl red\nv 0 0 0\nv 1 0 0\nv 1 2 0\nv 0 2 0\nf 1 2 3 4\n';
    const { report, glb } = await characters.inspect([
      { name: 'sheet.obj', bytes: text(obj) },
      { name: 'a.mtl', bytes: text('newmtl red\nKd 1 0 0\n') },
    ]);
    expect(report).toMatchObject({ triangles: 2, size: { width: 1, height: 2, depth: 0 }, landmarks: 0, clips: [], floor: 0 });
    const back = await readGlb(new Uint8Array(glb), 'sheet.glb');
    expect(back.triangles).toBe(2);
    expect(back.parts[0]!.material.base).toEqual([1, 0, 0]);
  });
  it('a GLB is kept byte for byte', async () => {
    const { characters } = await shelf();
    const own = buffer(await writeGlb(standIn('ball'), 'x'));
    expect((await characters.inspect([{ name: 'ball.glb', bytes: own }])).glb).toBe(own);
  });
  it('what is no character is refused with the reason', async () => {
    const { characters } = await shelf();
    await expect(characters.inspect([{ name: 'a.txt', bytes: text('hello') }])).rejects.toMatchObject({ code: 'not-glb' });
  });
  it('mending starts from the file as it came, and says what it did', async () => {
    const { characters } = await shelf();
    const { report, glb } = await characters.standIn('bust');
    const first = await characters.mend('bust.glb', glb, { ...NO_MENDING, without: ['nose'], subdivide: 1 });
    expect(first.report.parts.map((p) => p.name)).not.toContain('nose');
    expect(first.report.triangles).toBeGreaterThan(3 * report.triangles);
    expect(first.report.notes).toEqual([]);
    // the file itself was not touched: nothing mended is what came
    const again = await characters.mend('bust.glb', glb, NO_MENDING);
    expect(again.report.triangles).toBe(report.triangles);
    expect(new Uint8Array(again.glb)).toEqual(new Uint8Array(glb));
    // an inside-out part is named
    const turned = await characters.mend('bust.glb', await insideOut(glb), { ...NO_MENDING, winding: true });
    expect(turned.report.notes).toEqual(['nose was inside out and has been turned.']);
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

/** The bust with its nose's triangles the wrong way round. */
async function insideOut(glb: ArrayBuffer): Promise<ArrayBuffer> {
  const asset = await readGlb(new Uint8Array(glb), 'x.glb');
  const nose = asset.parts.find((p) => p.name === 'nose')!;
  nose.indices = nose.indices.slice().reverse();
  return buffer(await writeGlb(asset, 'x'));
}
