// `npm run presets`: a picture of every stage preset with a stand-in on it, under one key and a faint dome. Kept beside the interface,
// so that it need not trace them.
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  collected,
  FIRST_RANK,
  applyPatch,
  dome,
  emptySetup,
  parseSetup,
  rectangle,
  stagePatch,
  STAGES,
  standIn,
  writeGlb,
} from '@plinket/core';
import { renderCommand } from '../lab/src/commands/render.ts';

const out = fileURLToPath(new URL('../web/src/stage/presets/', import.meta.url));
mkdirSync(out, { recursive: true });
const folder = mkdtempSync(join(tmpdir(), 'plinket-presets-'));
try {
  const figure = standIn('figure'),
    glb = await writeGlb(figure, 'stand-in');
  writeFileSync(join(folder, 'figure.glb'), glb);
  const asset = createHash('sha256').update(glb).digest('hex');
  const panel = rectangle({ name: 'Key', kelvin: 5400, width: 1.2, height: 1.2 });
  const place = { azimuth: 38, elevation: 34, distance: 2.6, aim: [0, -0.4, 0] as [number, number, number] };
  const bare = emptySetup('Preset');
  const empty = {
    ...bare,
    subjects: {
      items: {
        s: { rank: FIRST_RANK, name: 'S', asset, visible: true, position: [0, 0, 0], turn: 0, scale: 1, head: figure.head, materials: {} },
      },
    },
    camera: { ...bare.camera, position: [-0.5, 1.15, 6.4], target: [0, 0.95, 0], focal: 70, aspect: 1.4, ev: 6.4 },
    lights: collected({ key: { ...panel, place, output: { ...panel.output, value: 1500 } }, dome: dome({ name: 'Dome' }) }),
  };
  for (const preset of STAGES) {
    const file = join(folder, 'setup.json');
    writeFileSync(file, JSON.stringify(parseSetup(applyPatch(empty as never, stagePatch(preset)))));
    await renderCommand([file], { out: join(out, `${preset.id}.png`), size: '112x80', samples: '96', smooth: '1', assets: folder });
    console.log(preset.name);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
