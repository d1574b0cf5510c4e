import { expect, test } from '@playwright/test';
import { BoxGeometry, Group, Mesh, SphereGeometry } from 'three';
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js';
import { apart, brightness, cells, copiedSetup, openStage, untilSamples, untilSaved } from './stage.ts';

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
  await openStage(page, id, 1);

  // the figure comes with its materials, says that it is in centimetres, and one click mends it
  await page.getByRole('tab', { name: 'Character' }).click();
  const { obj, mtl } = figure();
  await page.getByTestId('glb-input').setInputFiles([
    { name: 'figure.mtl', mimeType: 'text/plain', buffer: mtl },
    { name: 'figure.obj', mimeType: 'text/plain', buffer: obj },
  ]);
  await expect(page.getByTestId('import-report')).toContainText('3: head, body, legs');
  await page.getByTestId('scale-guess').first().click();
  await expect(page.getByTestId('import-report')).toContainText('1.76 m tall');
  await page.getByTestId('import-keep').click();
  await expect(page.getByTestId('import-report')).toBeHidden();
  await untilSamples(page, 2);

  // a stage from the shelf, and the trade's word for the frame
  await page.getByRole('tab', { name: 'Stage', exact: true }).click();
  await page.getByTestId('stage-preset').selectOption('chalk-sweep');
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
  await page.getByTestId('cameras').getByRole('button', { name: 'Portrait', exact: true }).click();
  await expect(page.getByTestId('whose-frame')).toHaveText('Portrait');
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
  await page.getByTestId('stage-preset').selectOption('fog-halo');
  await untilSamples(page, 1);
  await expect(async () => expect(brightness(await cells(page))).toBeGreaterThan(25)).toPass();
  await untilSaved(page);
  expect(problems).toEqual([]);
});
