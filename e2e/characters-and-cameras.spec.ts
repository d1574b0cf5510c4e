import { Document, NodeIO } from '@gltf-transform/core';
import { expect, test } from '@playwright/test';
import { FLAGS_3D } from '../scripts/lib/chromium.mjs';
import { BoxGeometry, Group, Mesh, SphereGeometry } from 'three';
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js';
import { apart, brightness, cells, copiedSetup, demoSetup, openStage, untilSamples, untilSaved } from './stage.ts';

// heads are pointed at in 3D; everything else does without
test.use({ launchOptions: { executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium', args: FLAGS_3D } });

/** A figure of 176 cm as a foreign program writes it: in centimetres, parts by name, with a material file. */
function figure(): { obj: Buffer; mtl: Buffer } {
  const group = new Group();
  const part = (name: string, mesh: Mesh, y: number) => {
    mesh.name = name;
    mesh.position.y = y;
    group.add(mesh);
  };
  part('head', new Mesh(new SphereGeometry(11, 32, 24)), 165);
  part('body', new Mesh(new BoxGeometry(42, 70, 22)), 118);
  part('legs', new Mesh(new BoxGeometry(30, 83, 18)), 41.5);
  group.updateMatrixWorld(true);
  const obj = new OBJExporter().parse(group).replace(/^o (\w+)$/gm, 'o $1\nusemtl $1');
  const mtl = 'newmtl head\nKd 0.8 0.6 0.5\nnewmtl body\nKd 0.2 0.3 0.5\nnewmtl legs\nKd 0.1 0.1 0.1\n';
  return { obj: Buffer.from(`mtllib figure.mtl\n${obj}`), mtl: Buffer.from(mtl) };
}

test('a foreign figure, its scale mended, on a stage, framed as a half figure', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  const id = await copiedSetup(page);
  await openStage(page, id);

  // the figure comes with its materials, says that it is in centimetres, and one click mends it
  await page.getByRole('tab', { name: 'Character' }).click();
  const { obj, mtl } = figure();
  await page.getByTestId('glb-input').setInputFiles([
    { name: 'figure.mtl', mimeType: 'text/plain', buffer: mtl },
    { name: 'figure.obj', mimeType: 'text/plain', buffer: obj },
  ]);
  await expect(page.getByTestId('import-report')).toContainText('3 of 3 parts');
  await page.getByTestId('scale-guess').first().click();
  await expect(page.getByTestId('import-report')).toContainText('1.76 m tall');
  await page.getByTestId('import-keep').click();
  await expect(page.getByTestId('import-report')).toBeHidden();
  await untilSamples(page, 2);

  // a stage from the shelf, and the trade's word for the frame
  await page.getByRole('tab', { name: 'Stage', exact: true }).click();
  await page.getByTestId('preset-chalk-sweep').click();
  await page.getByRole('tab', { name: 'Camera' }).click();
  await page.getByTestId('shot').selectOption('Half figure');
  await untilSamples(page, 2);
  const half = await cells(page);
  expect(brightness(half)).toBeGreaterThan(10);
  await expect(page.getByTestId('whose-frame')).toHaveText('Portrait');

  // the camera is kept, a second one goes round by a drag of the picture; the first comes back as it was
  await page.getByTestId('keep-camera').click();
  await expect(page.getByTestId('whose-frame')).toHaveText('Portrait 2');
  const picture = (await page.getByTestId('picture').boundingBox())!;
  const round = () => page.getByTestId('camera-round').inputValue();
  const before = await round();
  await page.mouse.move(picture.x + 100, picture.y + 200);
  await page.mouse.down();
  await page.mouse.move(picture.x + 220, picture.y + 200, { steps: 5 });
  await page.mouse.up();
  expect(await round()).not.toBe(before);
  await untilSamples(page, 2);
  await expect(async () => expect(apart(await cells(page), half)).toBeGreaterThan(5)).toPass();
  // the camera that was left shows what was seen through it
  await expect(page.getByTestId('cameras').locator('img')).toHaveCount(1);
  await page.getByTestId('cameras').getByRole('button', { name: 'Portrait', exact: true }).click();
  await expect(page.getByTestId('whose-frame')).toHaveText('Portrait');
  await expect(page.getByTestId('cameras').getByRole('button', { name: 'Portrait 2', exact: true }).locator('img')).toBeVisible();
  expect(await round()).toBe(before);

  // a longer lens that keeps the figure's size stands further away
  await page.getByTestId('keep-size').click();
  const near = Number(await page.getByTestId('camera-distance').inputValue());
  await page.getByTestId('focal').fill('250');
  await page.getByTestId('focal').press('Enter');
  expect(Number(await page.getByTestId('camera-distance').inputValue())).toBeCloseTo(near * 2, 1);

  // a wide frame sees past the stage: said, and mended by one click
  await page.getByTestId('keep-size').click();
  await page.getByTestId('focal').fill('12');
  await page.getByTestId('focal').press('Enter');
  await page.getByRole('tab', { name: 'Stage', exact: true }).click();
  await page.getByTestId('widen').click();
  await expect(page.getByTestId('widen')).toBeHidden();

  // nothing but a plate behind the figure
  await page.getByTestId('preset-fog-halo').click();
  await untilSamples(page, 1);
  await expect(async () => expect(brightness(await cells(page))).toBeGreaterThan(25)).toPass();
  await untilSaved(page);
  expect(problems).toEqual([]);
});

/** A box of 0.6 m on a joint that leans it over within a second, half a metre above the floor. */
async function leaning(): Promise<Buffer> {
  const d = new Document();
  const buffer = d.createBuffer();
  const vec = (type: 'VEC3' | 'VEC4' | 'SCALAR', a: Float32Array | Uint32Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(a as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const box = new BoxGeometry(0.3, 0.6, 0.3).translate(0, 0.3, 0);
  const floats = (name: string) => Float32Array.from(box.attributes[name]!.array);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', vec('VEC3', floats('position')))
    .setAttribute('NORMAL', vec('VEC3', floats('normal')))
    .setIndices(vec('SCALAR', Uint32Array.from(box.index!.array)));
  const node = d.createNode('box').setMesh(d.createMesh('box').addPrimitive(primitive)).setTranslation([0, 0.1, 0]);
  d.createScene('leaner').addChild(node);
  const sampler = d
    .createAnimationSampler()
    .setInput(vec('SCALAR', Float32Array.of(0, 1)))
    .setOutput(vec('VEC4', Float32Array.of(0, 0, 0, 1, 0, 0, Math.SQRT1_2, Math.SQRT1_2)));
  d.createAnimation('lean')
    .addSampler(sampler)
    .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath('rotation').setSampler(sampler));
  return Buffer.from(await new NodeIO().writeBinary(d));
}

test('a second character beside the first: set down, posed by its clip, its landmarks marked', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  await page.getByRole('tab', { name: 'Character' }).click();
  await page.getByTestId('glb-input').setInputFiles({ name: 'leaner.glb', mimeType: 'model/gltf-binary', buffer: await leaning() });
  await page.getByTestId('import-beside').click();
  await expect(page.getByTestId('cast')).toContainText('leaner');
  // the camera looks at the new one from the front
  await page.getByTestId('aside').fill('0');
  await page.getByTestId('aside').press('Enter');
  await page.getByTestId('cast').getByRole('button', { name: 'The old keeper', exact: true }).click();
  await page.getByLabel('In the picture').click();
  await page.getByTestId('cast').getByRole('button', { name: 'leaner', exact: true }).click();

  // it was put on the floor; raised it says so, and is set down again
  await expect(page.getByTestId('ground')).toContainText('0.60 m tall');
  await page.getByTestId('raised').fill('25 cm');
  await page.getByTestId('raised').press('Enter');
  await expect(page.getByTestId('ground')).toContainText('35 cm above the floor');
  await page.getByRole('button', { name: 'Set down' }).click();
  await expect(page.getByTestId('ground')).toContainText('on the floor');

  // a frame of its clip is what is traced, and what touches the floor
  await page.getByRole('tab', { name: 'Camera' }).click();
  await page.getByTestId('shot').selectOption('Full');
  await untilSamples(page, 2);
  const upright = await cells(page);
  await page.getByRole('tab', { name: 'Character' }).click();
  await page.getByTestId('clip').selectOption('lean');
  await page.getByTestId('frame').fill('24');
  await page.getByTestId('frame').press('Enter');
  await expect(page.getByTestId('ground')).toContainText('0.30 m');
  await untilSamples(page, 2);
  await expect(async () => expect(apart(await cells(page), upright)).toBeGreaterThan(4)).toPass();
  await page.getByTestId('clip').selectOption('');
  await expect(page.getByTestId('ground')).toContainText('0.60 m');

  // its landmarks: proposed, corrected by a click, mirrored, left out where a box has none
  await page.getByTestId('mark-head').click();
  const dialog = page.getByRole('dialog', { name: 'Landmarks of leaner' });
  const head = dialog.getByTestId('head-view').locator('canvas');
  const point = async () => ((await head.getAttribute('data-point')) ?? '').split(' ').map(Number);
  await expect(dialog.getByRole('status')).toContainText('1 of 13: the pupil of the left eye');
  await expect(async () => expect(await point()).toHaveLength(2)).toPass();
  const box = (await head.boundingBox())!,
    [px, py] = (await point()) as [number, number];
  // the point goes where the head is clicked
  await page.mouse.click(box.x + (px + 0.04) * box.width, box.y + (py - 0.05) * box.height);
  await expect(async () => {
    const [x, y] = (await point()) as [number, number];
    expect(Math.abs(x - px - 0.04)).toBeLessThan(0.012);
    expect(Math.abs(y - py + 0.05)).toBeLessThan(0.012);
  }).toPass();
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('status')).toContainText('2 of 13: the pupil of the right eye');
  await dialog.getByTestId('landmark-noseTip').click();
  await dialog.getByTestId('landmark-absent').click();
  await expect(dialog.getByTestId('landmark-noseTip')).toHaveAttribute('data-state', 'absent');
  // nothing was proposed for a crown without vertices near: it is pointed at
  const crown = dialog.getByTestId('landmark-crown');
  await expect(crown).toHaveAttribute('data-state', 'absent');
  await crown.click();
  await page.waitForTimeout(900);
  await page.mouse.click(box.x + 0.5 * box.width, box.y + 0.4 * box.height);
  await expect(async () => expect(await point()).toHaveLength(2)).toPass();
  await page.keyboard.press('Enter');
  await expect(crown).toHaveAttribute('data-state', 'confirmed');
  await dialog.getByTestId('landmarks-keep').click();
  await expect(dialog).toBeHidden();
  await untilSaved(page);
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: { subjects: { items: Record<string, { head: { source: string }; landmarks: Record<string, number[]> }> } };
  };
  const kept = Object.entries(document.subjects.items).find(([id]) => id.startsWith('subject-'))![1];
  expect(kept.head.source).toBe('hand');
  expect(kept.landmarks).not.toHaveProperty('noseTip');
  // the right eye went along with the left, on the other side at the same height
  expect(kept.landmarks['pupilR']![1]).toBeCloseTo(kept.landmarks['pupilL']![1]!, 4);
  expect(kept.landmarks['pupilR']![0]).toBeLessThan(kept.landmarks['pupilL']![0]!);
});

test('a step to stand on, a wall that darkens upwards, eyes that look at the camera', async ({ page }) => {
  const source = await demoSetup(page, 'The signaller listens');
  const { document: plain } = (await (await page.request.get(`/api/setups/${source.id}`)).json()) as { document: object };
  const created = await page.request.post('/api/setups', { data: { document: { ...plain, name: 'On a step' } } });
  const { id } = (await created.json()) as { id: string };
  type Kept = {
    stage: { smoothness?: number; gradient?: { to: number } };
    props: { items: Record<string, { kind: string; rise: number }> };
    camera: { position: number[] };
    subjects: { items: { signaller: { position: number[]; gaze?: { target: number[]; parts: string[] } } } };
  };
  const kept = async () => ((await (await page.request.get(`/api/setups/${id}`)).json()) as { document: Kept }).document;
  await openStage(page, id);
  await page.getByRole('tab', { name: 'Stage' }).click();
  await page.getByTestId('preset-night-sweep').click();
  await page.getByTestId('stage-smoothness').fill('80');
  await page.getByTestId('stage-smoothness').press('Enter');
  await page.getByTestId('stage-gradient').check();
  await page.getByTestId('gradient-to').fill('2.4');
  await page.getByTestId('gradient-to').press('Enter');
  await page.getByTestId('add-thing').selectOption('step');
  await untilSaved(page);
  expect((await kept()).stage).toMatchObject({ smoothness: 0.8, gradient: { to: 2.4 } });

  await page.getByRole('tab', { name: 'Character' }).click();
  await expect(page.getByTestId('ground')).toContainText('into the step');
  await page.getByRole('button', { name: 'Set down' }).click();
  await expect(page.getByTestId('ground')).toContainText('on the step');

  await untilSamples(page, 1);
  await page.getByTestId('gaze').selectOption('camera');
  await untilSaved(page);
  await untilSamples(page, 1);
  const { camera, subjects, props } = await kept();
  const { gaze, position } = subjects.items.signaller;
  expect(position[1]).toBeCloseTo(Object.values(props.items)[0]!.rise, 1);
  expect(gaze!.target).toEqual(camera.position);
  expect(gaze!.parts.sort()).toEqual(['cornea L', 'cornea R', 'eye white L', 'eye white R', 'iris L', 'iris R']);
  // a camera that has moved is said; one click, and they look at it again
  await expect(page.getByTestId('gaze-again')).toBeHidden();
  const picture = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(picture.x + 100, picture.y + 100);
  await page.mouse.down();
  await page.mouse.move(picture.x + 180, picture.y + 100, { steps: 4 });
  await page.mouse.up();
  await page.getByTestId('gaze-again').click();
  await untilSaved(page);
  const after = await kept();
  expect(after.camera.position).not.toEqual(camera.position);
  expect(after.subjects.items.signaller.gaze!.target).toEqual(after.camera.position);
});
