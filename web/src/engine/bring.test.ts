import { describe, expect, it } from '@jest/globals';
import { NO_MENDING, readGlb, standIn, writeGlb } from '@plinket/core';
import { inspect, mend } from './bring.ts';

const buffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;
const text = (words: string): ArrayBuffer => buffer(new TextEncoder().encode(words));

describe('bringing in', () => {
  it('an OBJ with its materials becomes a GLB that reads the same', async () => {
    const obj = 'mtllib a.mtl\no sheet\nusemtl red\nv 0 0 0\nv 1 0 0\nv 1 2 0\nv 0 2 0\nf 1 2 3 4\n';
    const { report, glb } = await inspect([
      { name: 'sheet.obj', bytes: text(obj) },
      { name: 'a.mtl', bytes: text('newmtl red\nKd 1 0 0\n') },
    ]);
    expect(report).toMatchObject({ triangles: 2, size: { width: 1, height: 2, depth: 0 }, landmarks: 0, clips: [], floor: 0 });
    const back = await readGlb(new Uint8Array(glb), 'sheet.glb');
    expect(back.triangles).toBe(2);
    expect(back.parts[0]!.material.base).toEqual([1, 0, 0]);
  });
  it('a GLB is kept byte for byte', async () => {
    const own = buffer(await writeGlb(standIn('ball'), 'x'));
    expect((await inspect([{ name: 'ball.glb', bytes: own }])).glb).toBe(own);
  });
  it('what is no character is refused with the reason', async () => {
    await expect(inspect([{ name: 'a.txt', bytes: text('hello') }])).rejects.toMatchObject({ code: 'not-glb' });
  });
  it('mending starts from the file as it came, and says what it did', async () => {
    const bust = standIn('bust'),
      glb = buffer(await writeGlb(bust, 'x'));
    const first = await mend('bust.glb', glb, { ...NO_MENDING, without: ['nose'], subdivide: 1 });
    expect(first.report.parts.map((p) => p.name)).not.toContain('nose');
    expect(first.report.triangles).toBeGreaterThan(3 * bust.triangles);
    expect(first.report.notes).toEqual([]);
    // the file itself was not touched: nothing mended is what came
    const again = await mend('bust.glb', glb, NO_MENDING);
    expect(again.report.triangles).toBe(bust.triangles);
    expect(new Uint8Array(again.glb)).toEqual(new Uint8Array(glb));
    // an inside-out part is named
    const turned = await mend('bust.glb', await insideOut(glb), { ...NO_MENDING, winding: true });
    expect(turned.report.notes).toEqual(['nose was inside out and has been turned.']);
  });
  it('tells how far it has come, never back and to the end', async () => {
    const told: number[] = [];
    const progress = (share: number) => void told.push(share);
    const glb = buffer(await writeGlb(standIn('figure'), 'x'));
    const rising = () => {
      expect(told.length).toBeGreaterThan(3);
      told.forEach((share, i) => expect(share).toBeGreaterThanOrEqual(told[i - 1] ?? 0));
      expect(told.at(-1)).toBeLessThanOrEqual(1);
      expect(told.at(-1)).toBeGreaterThan(0.7);
      told.length = 0;
    };
    await inspect([{ name: 'figure.glb', bytes: glb }], { progress });
    rising();
    await mend('figure.glb', glb, { ...NO_MENDING, crease: 40 }, { progress });
    rising();
    const lines = Array.from({ length: 500 }, (_, i) => `v ${i} ${i * i} 0`).join('\n');
    await inspect(
      [{ name: 'fan.obj', bytes: text(`${lines}\n${Array.from({ length: 400 }, (_, i) => `f 1 ${i + 2} ${i + 3}`).join('\n')}`) }],
      { progress },
    );
    rising();
  });
});

/** The bust with its nose's triangles the wrong way round. */
async function insideOut(glb: ArrayBuffer): Promise<ArrayBuffer> {
  const asset = await readGlb(new Uint8Array(glb), 'x.glb');
  const nose = asset.parts.find((p) => p.name === 'nose')!;
  nose.indices = nose.indices.slice().reverse();
  return buffer(await writeGlb(asset, 'x'));
}
