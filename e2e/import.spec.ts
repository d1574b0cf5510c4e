import { Document, NodeIO } from '@gltf-transform/core';
import { KHRDracoMeshCompression } from '@gltf-transform/extensions';
// @ts-expect-error the package ships no types
import draco3d from 'draco3dgltf';
import { expect, test } from '@playwright/test';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { FLAGS_3D } from '../scripts/lib/chromium.mjs';
import { copiedSetup, openStage, untilSamples, untilSaved } from './stage.ts';

// heads are pointed at in 3D; everything else does without
test.use({ launchOptions: { executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium', args: FLAGS_3D } });

/** A figure of 176 cm as a foreign program writes it: in centimetres, Z up, seen from behind, with a stand nobody wants. */
async function lying(): Promise<Document> {
  const d = new Document();
  const buffer = d.createBuffer(),
    scene = d.createScene('Watchman');
  const part = (name: string, geometry: BufferGeometry) => {
    // upright and to the front → on its back, away from the camera
    const turned = (attribute: string) => {
      const { array } = geometry.getAttribute(attribute);
      const out = new Float32Array(array.length);
      for (let i = 0; i < out.length; i += 3) out.set([-array[i]!, array[i + 2]!, array[i + 1]!], i);
      return d.createAccessor().setType('VEC3').setArray(out).setBuffer(buffer);
    };
    const primitive = d
      .createPrimitive()
      .setAttribute('POSITION', turned('position'))
      .setAttribute('NORMAL', turned('normal'))
      .setIndices(d.createAccessor().setType('SCALAR').setArray(Uint32Array.from(geometry.index!.array)).setBuffer(buffer));
    scene.addChild(d.createNode(name).setMesh(d.createMesh(name).addPrimitive(primitive)));
  };
  part('head', new SphereGeometry(11, 32, 24).translate(0, 165, 0));
  part('body', new BoxGeometry(48, 70, 20, 6, 12, 4).translate(0, 118, 0));
  part('legs', new BoxGeometry(30, 83, 12, 6, 30, 4).translate(0, 41.5, 0));
  part('feet', new BoxGeometry(30, 7, 26, 6, 4, 8).translate(0, 3.5, 8));
  part('price tag', new BoxGeometry(40, 20, 1).translate(0, 90, 40));
  return d;
}

test('a foreign figure is stood up, turned, scaled, rid of a part, marked, set on a stage and framed', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  const id = await copiedSetup(page);
  await openStage(page, id);
  await page.getByRole('tab', { name: 'Character' }).click();
  const glb = Buffer.from(await new NodeIO().writeBinary(await lying()));
  const bring = (name: string, buffer: Buffer) => ({ name, mimeType: 'model/gltf-binary', buffer });
  await page.getByTestId('glb-input').setInputFiles(bring('watchman.glb', glb));
  const report = page.getByTestId('import-report');
  await expect(report).toContainText('it lies on its back');
  await page.getByTestId('stance-guess').click();
  await expect(report).toHaveAttribute('aria-busy', 'false');
  await expect(page.getByTestId('stance-guess')).toBeHidden();
  await expect(page.getByTestId('mend-faces')).toHaveValue('-z');
  await page.getByTestId('scale-guess').first().click();
  await expect(report).toContainText('1.76 m tall');
  await page.getByTestId('mend-parts').click();
  await report.getByRole('checkbox', { name: 'price tag' }).uncheck();
  await expect(report).toContainText('4 of 5 parts');
  await page.getByTestId('mend-edges').selectOption('30');
  await expect(report).toHaveAttribute('aria-busy', 'false');
  await page.getByTestId('mend-subdivide').selectOption('1');
  await expect(report).toHaveAttribute('aria-busy', 'false');
  await page.getByTestId('import-keep').click();
  await expect(report).toBeHidden();
  await untilSamples(page, 2);
  await untilSaved(page);

  // what is on the stage stands as it should: upright on the floor, its toes towards the camera, without the tag
  type Kept = { document: { subjects: { items: { keeper: { asset: string; scale: number; position: number[] } } } } };
  const subject = async () => ((await (await page.request.get(`/api/setups/${id}`)).json()) as Kept).document.subjects.items.keeper;
  await expect(async () => expect((await subject()).scale).toBe(0.01)).toPass();
  const { asset, scale, position } = await subject();
  const kept = await new NodeIO().readBinary(new Uint8Array(await (await page.request.get(`/api/blobs/${asset}`)).body()));
  const parts = kept
    .getRoot()
    .listNodes()
    .filter((n) => n.getMesh());
  expect(parts.map((n) => n.getName())).toEqual(['head', 'body', 'legs', 'feet']);
  const world = (name: string) => {
    const node = parts.find((n) => n.getName() === name)!;
    const m = node.getWorldMatrix(),
      p = node.getMesh()!.listPrimitives()[0]!.getAttribute('POSITION')!;
    const at = (v: number[]) => [0, 1, 2].map((k) => m[k]! * v[0]! + m[4 + k]! * v[1]! + m[8 + k]! * v[2]! + m[12 + k]!);
    const points = Array.from({ length: p.getCount() }, (_, i) => at(p.getElement(i, [])));
    return {
      low: [0, 1, 2].map((k) => Math.min(...points.map((q) => q[k]!))),
      high: [0, 1, 2].map((k) => Math.max(...points.map((q) => q[k]!))),
    };
  };
  // subdivision pulls the corners of boxes in by a little
  expect(world('feet').low[1]! * scale + position[1]!).toBeCloseTo(0, 2);
  expect(world('feet').high[2]!).toBeGreaterThan(18);
  expect(world('head').high[1]!).toBeGreaterThan(174);
  // the file as it came lies beside what was made of it
  const link = page.getByTestId('originals').getByRole('link', { name: 'watchman.glb' });
  const original = await (await page.request.get((await link.getAttribute('href'))!)).body();
  expect(original.equals(glb)).toBe(true);

  // its landmarks: a ball of a head has no ears worth the name, the rest is confirmed as proposed
  await page.getByTestId('mark-head').click();
  const marks = page.getByRole('dialog', { name: /Landmarks of/ });
  await marks.getByTestId('landmark-earL').click();
  await marks.getByTestId('landmark-absent').click();
  await marks.getByTestId('landmark-earR').click();
  await marks.getByTestId('landmark-absent').click();
  await marks.getByTestId('landmarks-keep').click();
  await expect(marks).toBeHidden();
  // a stage, and a half figure of it
  await page.getByRole('tab', { name: 'Stage' }).click();
  await page.getByTestId('preset-kelp-corner').click();
  await page.getByRole('tab', { name: 'Camera' }).click();
  await page.getByTestId('shot').selectOption('Half figure');
  await untilSamples(page, 1);
  await untilSaved(page);
  const { document: done } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: {
      stage: { kind: string };
      camera: { position: number[]; target: number[]; focal: number; sensor: number };
      subjects: { items: { keeper: { head: { source: string; height: number }; landmarks: Record<string, unknown> } } };
    };
  };
  expect(done.stage.kind).toBe('corner');
  const { head, landmarks } = done.subjects.items.keeper;
  expect(head.source).toBe('hand');
  expect(Object.keys(landmarks)).toEqual(expect.arrayContaining(['pupilL', 'pupilR', 'crown', 'chinBottom']));
  expect(landmarks).not.toHaveProperty('earL');
  // the head is the ball of 22 cm, in the file's centimetres
  expect(head.height).toBeGreaterThan(17);
  expect(head.height).toBeLessThan(26);
  const { camera } = done;
  const away = Math.hypot(...camera.position.map((v, k) => v - camera.target[k]!));
  // a half figure: as tall as three to five heads
  expect((away * camera.sensor) / camera.focal / (head.height * scale)).toBeGreaterThan(3);
  expect((away * camera.sensor) / camera.focal / (head.height * scale)).toBeLessThan(5.5);
  expect(problems).toEqual([]);
});

test('a .gltf without its buffer is named and refused; with it, it comes in', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const d = await lying();
  d.getRoot().listBuffers()[0]!.setURI('watchman.bin');
  const { json, resources } = await new NodeIO().writeJSON(d);
  const gltf = { name: 'watchman.gltf', mimeType: 'model/gltf+json', buffer: Buffer.from(JSON.stringify(json)) };
  const bin = { name: 'watchman.bin', mimeType: 'application/octet-stream', buffer: Buffer.from(resources['watchman.bin']!) };
  await page.getByTestId('glb-input').setInputFiles([gltf]);
  await expect(page.getByRole('alert')).toContainText('watchman.gltf needs watchman.bin, which did not come along');
  await page.getByRole('button', { name: 'Close' }).click();
  await page.getByTestId('glb-input').setInputFiles([bin, gltf]);
  await expect(page.getByTestId('import-report')).toContainText('Watchman');
  await page.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.getByTestId('import-report')).toBeHidden();
});

test('reading can be stopped while it lasts, and changes nothing', async ({ page, context }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const before: unknown = await (await page.request.get(`/api/setups/${id}`)).json();
  // a file that waits for its decoder until it is let go
  let go = () => {};
  const gate = new Promise<void>((resolve) => (go = resolve));
  await context.route('**/draco_decoder*', async (route) => {
    await gate;
    await route.continue().catch(() => undefined);
  });
  const d = await lying();
  d.createExtension(KHRDracoMeshCompression).setRequired(true);
  const io = new NodeIO()
    .registerExtensions([KHRDracoMeshCompression])
    .registerDependencies({ 'draco3d.encoder': await (draco3d as { createEncoderModule(): Promise<unknown> }).createEncoderModule() });
  const file = { name: 'packed.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(await io.writeBinary(d)) };
  await page.getByTestId('glb-input').setInputFiles(file);
  const dialog = page.getByRole('dialog', { name: 'Bring in a character' });
  await expect(dialog.getByRole('progressbar')).toBeVisible();
  await dialog.getByRole('button', { name: 'Stop' }).click();
  await expect(dialog).toBeHidden();
  go();
  await page.waitForTimeout(300);
  await expect(dialog).toBeHidden();
  expect(await (await page.request.get(`/api/setups/${id}`)).json()).toEqual(before);
  // and the same file is read when it is wanted after all
  await page.getByTestId('glb-input').setInputFiles(file);
  await expect(page.getByTestId('import-report')).toContainText('Watchman');
  await page.getByRole('button', { name: 'Leave it' }).click();
});

test('a stand-in serves until the character comes from the shelf, and comes back', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  await page.getByRole('tab', { name: 'Character' }).click();
  await page.getByTestId('character-shelf').selectOption('figure');
  await page.getByTestId('shelf-place').click();
  await expect(page.getByRole('heading', { name: 'Stand-in figure' })).toBeVisible();
  await untilSamples(page, 1);
  await expect(page.getByTestId('ground')).toContainText('1.70 m');
  // the demo's cast is on the shelf; the stand-in makes room
  const shelf = page.getByTestId('character-shelf');
  const signaller = await shelf.locator('option', { hasText: /The young signaller, 1\./ }).getAttribute('value');
  await shelf.selectOption(signaller);
  await page.getByTestId('shelf-place').click();
  await expect(page.getByRole('heading', { name: 'The young signaller' })).toBeVisible();
  await page.getByTestId('cast').getByRole('button', { name: 'Stand-in figure', exact: true }).click();
  await expect(page.getByLabel('In the picture')).not.toBeChecked();
  await page.getByLabel('In the picture').check();
  await untilSaved(page);
  type Kept = { document: { subjects: { items: Record<string, { rank: string; name: string; visible: boolean }> } } };
  await expect(async () => {
    const { subjects } = ((await (await page.request.get(`/api/setups/${id}`)).json()) as Kept).document;
    expect(
      Object.values(subjects.items)
        .sort((a, b) => (a.rank < b.rank ? -1 : 1))
        .map((s) => [s.name, s.visible]),
    ).toEqual([
      ['The young signaller', true],
      ['Stand-in figure', true],
    ]);
  }).toPass();
});
