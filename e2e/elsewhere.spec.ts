// Files that others made, brought in by hand: right, or refused by name, while the Stage goes on.
import { readFileSync } from 'node:fs';
import { Document, NodeIO } from '@gltf-transform/core';
import { expect, test, type Page } from '@playwright/test';
import { readGlb } from '@plinket/core';
import { PNG } from 'pngjs';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { cells, copiedSetup, openStage, untilSamples, untilSaved } from './stage.ts';

const hostile = (name: string): Buffer => readFileSync(new URL(`../core/src/testing/hostile/${name}`, import.meta.url));
const file = (name: string, buffer: Buffer | string) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(buffer) });

/** A picture of one colour in its left half and another in its right. */
function halves(left: number[], right: number[]): Buffer {
  const png = new PNG({ width: 64, height: 64 });
  for (let i = 0; i < 64 * 64; i++) png.data.set([...(i % 64 < 32 ? left : right), 255], i * 4);
  return PNG.sync.write(png);
}

/** A figure as OBJ: a body with pictures by its own coordinates, and a head. */
function figureObj(): string {
  const lines = ['mtllib figure.mtl'];
  let before = 0;
  for (const [name, surface, geometry] of [
    ['coat', 'cloth', new BoxGeometry(0.5, 1.4, 0.25).translate(0, 0.7, 0)],
    ['head', 'skin', new SphereGeometry(0.13, 32, 24).translate(0, 1.55, 0)],
  ] as [string, string, BufferGeometry][]) {
    const of = (attribute: string, size: number) =>
      Array.from({ length: geometry.getAttribute(attribute).count }, (_, i) =>
        [...geometry.getAttribute(attribute).array.slice(i * size, i * size + size)].map((v) => v.toFixed(5)).join(' '),
      );
    lines.push(
      `o ${name}`,
      ...of('position', 3).map((v) => `v ${v}`),
      ...of('uv', 2).map((v) => `vt ${v}`),
      ...of('normal', 3).map((v) => `vn ${v}`),
    );
    lines.push(`usemtl ${surface}`);
    const { array } = geometry.index!;
    for (let i = 0; i < array.length; i += 3)
      lines.push(
        `f ${[0, 1, 2]
          .map((k) => array[i + k]! + 1 + before)
          .map((n) => `${n}/${n}/${n}`)
          .join(' ')}`,
      );
    before += geometry.getAttribute('position').count;
  }
  return lines.join('\n');
}

/** The subject of a setup, and the file that it names. */
async function kept(page: Page, id: string): Promise<{ scale: number; document: Document }> {
  type Kept = { document: { subjects: { items: Record<string, { asset: string; scale: number }> } } };
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as Kept;
  const { asset, scale } = Object.values(document.subjects.items)[0]!;
  return { scale, document: await new NodeIO().readBinary(new Uint8Array(await (await page.request.get(`/api/blobs/${asset}`)).body())) };
}

async function keep(page: Page): Promise<void> {
  await page.getByTestId('import-keep').click();
  await expect(page.getByTestId('import-report')).toBeHidden();
  await untilSamples(page, 1);
  await untilSaved(page);
}

/** Mean colour of the middle of the picture. */
async function middle(page: Page): Promise<[number, number, number]> {
  const all = await cells(page, 9, 9);
  return [0, 1, 2].map((c) => [30, 31, 32, 39, 40, 41, 48, 49, 50].reduce((n, cell) => n + all[cell * 3 + c]!, 0) / 9) as [
    number,
    number,
    number,
  ];
}

/** Frames the figure, and waits until one colour leads another in the middle of the picture: 0 red, 1 green, 2 blue. */
async function leads(page: Page, shot: string, more: number, less: number): Promise<void> {
  await page.getByRole('tab', { name: 'Camera' }).click();
  await page.getByTestId('shot').selectOption(shot);
  await expect(async () => {
    const colour = await middle(page);
    expect(colour[more]!).toBeGreaterThan(1.3 * colour[less]!);
  }).toPass({ timeout: 60_000 });
}

test('an OBJ comes with its pictures; what is missing is named', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const input = page.getByTestId('glb-input'),
    report = page.getByTestId('import-report');
  const obj = file('figure.obj', figureObj()),
    mtl = file('figure.mtl', 'newmtl cloth\nKd 1 1 1\nmap_Kd maps\\coat.png\nnewmtl skin\nKd 0.8 0.5 0.4\nmap_Kd maps\\face.png\n'),
    coat = file('coat.png', halves([210, 30, 30], [210, 30, 30]));
  await input.setInputFiles([obj, mtl, coat]);
  await expect(report).toContainText('face.png did not come along');
  await expect(report).not.toContainText('coat.png');
  await expect(report).toContainText(/Head.*% sure/);
  await expect(report).toContainText(/Stands.*upright/);
  await page.getByRole('button', { name: 'Leave it' }).click();
  await input.setInputFiles([obj, mtl, coat, file('face.png', halves([230, 180, 150], [230, 180, 150]))]);
  await expect(report).toBeVisible();
  await expect(report).not.toContainText('did not come along');
  await keep(page);
  await expect(async () => expect((await kept(page, id)).document.getRoot().listTextures()).toHaveLength(2)).toPass();
  // the coat is red in the picture, too
  await leads(page, 'Half figure', 0, 1);
});

test('a picture by the second coordinates, and a mask in centimetres', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const input = page.getByTestId('glb-input'),
    report = page.getByTestId('import-report');
  // by the first coordinates all of it is red, by the second all is green
  const d = new Document(),
    buffer = d.createBuffer(),
    ball = new SphereGeometry(0.16, 48, 32).translate(0, 1.5, 0);
  const accessor = (type: 'VEC2' | 'VEC3', array: ArrayLike<number>) =>
    d.createAccessor().setType(type).setArray(Float32Array.from(array)).setBuffer(buffer);
  const count = ball.getAttribute('position').count,
    side = (u: number) => Float32Array.from({ length: count * 2 }, (_, i) => (i % 2 ? 0.5 : u));
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', ball.getAttribute('position').array))
    .setAttribute('NORMAL', accessor('VEC3', ball.getAttribute('normal').array))
    .setAttribute('TEXCOORD_0', accessor('VEC2', side(0.25)))
    .setAttribute('TEXCOORD_1', accessor('VEC2', side(0.75)))
    .setIndices(d.createAccessor().setType('SCALAR').setArray(Uint32Array.from(ball.index!.array)).setBuffer(buffer));
  const picture = d
    .createTexture('paint')
    .setMimeType('image/png')
    .setImage(new Uint8Array(halves([200, 20, 20], [20, 200, 20])));
  const paint = d.createMaterial('paint').setBaseColorTexture(picture).setMetallicFactor(0);
  paint.getBaseColorTextureInfo()!.setTexCoord(1);
  d.createScene().addChild(d.createNode('ball').setMesh(d.createMesh().addPrimitive(primitive.setMaterial(paint))));
  await input.setInputFiles(file('ball.glb', Buffer.from(await new NodeIO().writeBinary(d))));
  await expect(report).toContainText('ball');
  await keep(page);
  await leads(page, 'Close-up', 1, 0);

  // the front of the demo's head, in centimetres, without a word of landmarks
  const { parts } = await readGlb(new Uint8Array(readFileSync(new URL('../demo/assets/keeper.glb', import.meta.url))));
  const lines: string[] = [];
  let before = 1;
  for (const { positions, indices } of parts) {
    const at = (corner: number, k: number): number => positions[corner * 3 + k]!;
    for (let i = 0; i < positions.length; i += 3) lines.push(`v ${[0, 1, 2].map((k) => (positions[i + k]! * 100).toFixed(3)).join(' ')}`);
    for (let i = 0; i < indices.length; i += 3) {
      const corners = [...indices.subarray(i, i + 3)];
      if (corners.every((c) => at(c, 2) > 0.02 && at(c, 1) > 1.15)) lines.push(`f ${corners.map((c) => c + before).join(' ')}`);
    }
    before += positions.length / 3;
  }
  await input.setInputFiles(file('mask.obj', lines.join('\n')));
  await expect(report).toContainText('centimetres', { timeout: 60_000 });
  await page.getByTestId('scale-guess').filter({ hasText: 'centimetres' }).click();
  await expect(report).toContainText(/Stands.*by its face, \d+ % sure/);
  await keep(page);
  // kept a moment after the picture has it
  await expect(async () => expect((await kept(page, id)).scale).toBe(0.01)).toPass();
});

test('damaged domes and bombs are refused by name, and the Stage goes on', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  const id = await copiedSetup(page);
  await openStage(page, id, 1);
  const input = page.getByTestId('glb-input');
  for (const [name, reason] of [
    ['exr-762-h-dwaa.exr', /exr-762-h-dwaa\.exr was not brought in: Row \d+ cannot be decompressed/],
    ['exr-piz-claims-16384x8192.exr', /exr-piz-claims-16384x8192\.exr was not brought in: 16384 × 8192 pixels are too many/],
    ['hdr-claims-16384x8192.hdr', /16384 × 8192 pixels are too many/],
    ['png-claims-30000x30000.png', /30000 × 30000 pixels are too many/],
  ] as const) {
    await input.setInputFiles(file(name, hostile(name)));
    await expect(page.getByText(reason)).toBeVisible();
  }
  await input.setInputFiles(file('bomb.glb', hostile('glb-zero-accessor-300M.glb')));
  await expect(page.getByRole('alert')).toContainText('bomb.glb was not brought in');
  await expect(page.getByRole('alert')).toContainText('100 million are the most');
  await page.getByRole('button', { name: 'Close' }).click();
  // nothing has changed, and the picture goes on
  await untilSamples(page, 2);
  type Document = { document: { lights: { items: object } }; revision: number };
  const { document, revision } = (await (await page.request.get(`/api/setups/${id}`)).json()) as Document;
  expect(Object.keys(document.lights.items)).toHaveLength(5);
  expect(revision).toBe(1);
  expect(problems).toEqual([]);
});
