// `npm run demo:kits`: the shelf of kits. Each rig is begun on the keeper's face, measured there, put on the other heads and measured again; kits with suns, strips
// and turns are said light by light; stages are those that are ready to use. What was measured, and a picture on each head, stand in the kit.
import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { render } from '@plinket/engine';
import { loadFilmMath, loadKernel, nodePool } from '@plinket/engine/node';
import {
  applyPatch,
  briefOf,
  collected,
  compile,
  emptySetup,
  kitOf,
  named,
  orderOf,
  PictureMaker,
  patternName,
  place,
  putKit,
  RECIPE_VERSION,
  round,
  smoothInPlace,
  STAGES,
  stagePatch,
  type CharacterAsset,
  type Kit,
  type Setup,
} from '@plinket/core';
import jpeg from 'jpeg-js';
import { demoKits, KIT_PICTURES, LIT_PLANS, planOfTurn, RIG_PLANS } from '../demo/src/kits.ts';
import { portraitOf, standOn, type Portrait } from '../core/src/testing/portrait.ts';

const { module } = loadKernel(false);
const HEADS = { 'the keeper': 'keeper', 'the signaller': 'signaller', 'the tide-goat': 'goat' };
/** A character whose face is mapped, without a light. */
async function standing(file: string): Promise<Portrait> {
  const portrait = await portraitOf(readFileSync(new URL(`../demo/assets/${file}.glb`, import.meta.url)), module!);
  return {
    ...portrait,
    setup: applyPatch(portrait.setup, { lights: { items: { key: null } }, camera: { position: [0, 1.6, 2.6], target: [0, 1.55, 0] } }),
  };
}
const heads: [string, Portrait][] = [],
  figures: [string, Portrait][] = [];
for (const [name, file] of Object.entries(HEADS)) {
  heads.push([name, await standing(file)]);
  figures.push([name, await standing(`${file}-figure`)]);
}
const keeper = heads[0]![1];
/** What a setup draws on a head. */
const drawn = (portrait: Portrait, setup: Setup) => {
  const { reading } = standOn(portrait, setup);
  const all = reading && named(reading.byAll)?.pattern;
  // a pattern of two lights is drawn by both
  const pattern = all === 'clamshell' ? all : reading && named(reading.byKey)?.pattern;
  return { pattern, ratio: reading?.ratio?.value, key: reading?.key?.id };
};
const words = ({ pattern, ratio }: ReturnType<typeof drawn>): string =>
  [
    pattern ? patternName(pattern).toLowerCase() : 'no pattern that has a name',
    ratio === undefined ? '' : ratio > 20 ? '> 20 : 1' : `${ratio.toFixed(1)} : 1`,
  ]
    .filter(Boolean)
    .join(', ');

/** What is seen of a kit: a head, or for what is about more than a face a figure; width and height, px. */
const SIZE = [168, 210] as const,
  SAMPLES = 36;
const pool = nodePool({}),
  math = loadFilmMath();
/** Traces a setup, writes its picture under its SHA-256. */
async function pictured(setup: Setup, asset: CharacterAsset): Promise<string> {
  const [width, height] = SIZE;
  const scene = compile(setup, () => asset);
  const set = await render(scene, { width, height, samples: SAMPLES, seed: 1, bounces: 3 }, { pool, math });
  smoothInPlace(
    set.math,
    set.guides,
    [...set.films.values()].map(({ film }) => film),
    SAMPLES,
    1,
  );
  const { rgba } = new PictureMaker(set.math, { gobo: () => undefined, cube: () => undefined }).make(set, { setup, solo: [] });
  const { data } = jpeg.encode({ width, height, data: Buffer.from(rgba) }, 88);
  set.close();
  const sha256 = createHash('sha256').update(data).digest('hex');
  writeFileSync(new URL(sha256, KIT_PICTURES), data);
  return sha256;
}

/** Lights for kits that bring none. */
const LAMPS = 'The whole figure';
/** Words after the command: only kits that have one of them in name or tags are made anew, the others stay as they are. */
const asked = process.argv.slice(2);
const before = asked.length ? demoKits() : [];
const kits: Kit[] = [];
mkdirSync(KIT_PICTURES, { recursive: true });

/** The kit put on every head, read and pictured there. */
async function shownOn(kit: Kit): Promise<Pick<Kit, 'notes' | 'shown'>> {
  const shown: Kit['shown'] = [],
    read: string[] = [];
  const face = kit.parts.rig && !kit.parts.turntable,
    cast = face ? heads : figures;
  for (const [on, portrait] of cast) {
    const lit = kit.parts.rig
      ? portrait.setup
      : applyPatch(
          portrait.setup,
          putKit(
            portrait.setup,
            kits.find((k) => k.name === LAMPS)!,
            { how: 'replace' },
          ).patch,
        );
    const { setup } = putKit(lit, kit, { how: 'replace' });
    const measured = face ? drawn(portrait, setup) : undefined;
    if (measured) read.push(`${on}: ${words(measured)}`);
    const { pattern, ratio } = measured ?? {};
    shown.push({
      on,
      picture: await pictured(framed(setup, face ? 'head' : 'figure'), portrait.asset),
      ...(pattern ? { pattern } : {}),
      ...(ratio !== undefined && ratio < 1000 ? { ratio: round(ratio, 2) } : {}),
    });
  }
  return { shown, notes: read.length ? `Put on as it is, measured: ${read.join('; ')}.` : kit.notes };
}
/** Framed alike, whatever the kit is; before a dark wall, unless the kit lights its wall. */
function framed(setup: Setup, what: 'head' | 'figure'): Setup {
  const { scale, head } = setup.subjects.items['who']!,
    size = head.height * scale,
    eye = head.origin[1]! * scale;
  const camera: Partial<Setup['camera']> =
    what === 'head'
      ? { position: [-1.2 * size, eye + 0.1 * size, 10 * size], target: [0, eye - 0.12 * size, 0], focal: 132 }
      : { position: [-4 * size, eye * 0.8, 22 * size], target: [0, eye * 0.56, 0], focal: 60 };
  const { look, stage } = emptySetup(''),
    lit = what === 'figure' || Object.values(setup.lights.items).some((l) => l.role === 'background');
  return { ...setup, look, stage: lit ? setup.stage : stage, camera: { ...setup.camera, ...camera, aspect: SIZE[0] / SIZE[1] } };
}
async function keep(kit: Kit): Promise<void> {
  const known = before.find((k) => k.name === kit.name);
  if (known && !wanted(kit)) return void kits.push(known);
  kits.push({ ...kit, ...(await shownOn(kit)) });
  console.log(`${kit.name}: ${kits.at(-1)!.notes}`);
}

const wanted = ({ name, tags }: Pick<Kit, 'name' | 'tags'>): boolean =>
  asked.length === 0 || asked.some((w) => name.includes(w) || tags.includes(w));
for (const { name, brief, tags, light } of RIG_PLANS) {
  const known = before.find((k) => k.name === name);
  if (known && !wanted(known)) {
    kits.push(known);
    continue;
  }
  const recipe = briefOf('kit', { schemaVersion: RECIPE_VERSION, name, brief, light });
  const begun = place(standOn(keeper), '', { kind: 'brief', brief: recipe });
  const setup = applyPatch(keeper.setup, begun.patch);
  const on = drawn(keeper, setup);
  const key = orderOf(setup.lights).find((id) => setup.lights.items[id]!.role === 'key')!;
  // what lies before a figure that is lit from behind may give its face more than the key does: then the pattern is the one that was placed
  const shows = {
    pattern: (on.key === key ? on.pattern : undefined) ?? light.key.pattern,
    ...(on.ratio !== undefined && on.ratio < 1000 ? { ratio: round(on.ratio, 2) } : {}),
    key,
  };
  await keep(kitOf(setup, ['rig'], { name, brief, notes: '', tags, shows }).kit);
  if (!begun.reached) console.log('not reached');
}
for (const plan of LIT_PLANS) {
  const turntable = planOfTurn(plan),
    stage = STAGES.find(({ id }) => id === plan.stage);
  const bare = stage ? applyPatch(keeper.setup, stagePatch(stage)) : keeper.setup;
  const lit: Setup = {
    ...bare,
    lights: collected(plan.lights),
    camera: { ...bare.camera, ev: plan.ev },
    ...(turntable ? { turntable } : {}),
  };
  // the numbers are those of the reference head
  const { name, brief, tags, shows } = plan;
  const { kit } = kitOf(
    { ...lit, subjects: { items: {} } },
    ['rig', ...(stage ? ['stage' as const] : []), ...(turntable ? ['turntable' as const] : [])],
    {
      name,
      brief,
      notes: '',
      tags,
      ...(shows ? { shows } : {}),
    },
  );
  await keep(kit);
}
for (const stage of STAGES) {
  const setup = applyPatch(keeper.setup, stagePatch(stage));
  await keep(kitOf(setup, ['stage'], { name: `${stage.name}, stage`, brief: stage.words, notes: '', tags: ['stage'] }).kit);
}
pool.close();
const needed = new Set(kits.flatMap((k) => k.shown.map((s) => s.picture)));
for (const file of readdirSync(KIT_PICTURES)) if (!needed.has(file)) rmSync(new URL(file, KIT_PICTURES));
writeFileSync(new URL('../demo/assets/kits.json', import.meta.url), `${JSON.stringify(kits, undefined, 1)}\n`);
console.log(`${kits.length} kits`);
