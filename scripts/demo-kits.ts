// `npm run demo:kits`: the shelf of kits. Each rig is begun on the keeper's face, measured there, put on the other heads and measured again; stages are those
// that are ready to use. What was measured stands in each kit's notes.
import { readFileSync, writeFileSync } from 'node:fs';
import { loadKernel } from '@plinket/engine/node';
import {
  applyPatch,
  briefOf,
  kitOf,
  named,
  orderOf,
  patternName,
  place,
  putKit,
  RECIPE_VERSION,
  round,
  STAGES,
  stagePatch,
  type Kit,
  type Setup,
} from '@plinket/core';
import { RIG_PLANS } from '../demo/src/kits.ts';
import { portraitOf, standOn, type Portrait } from '../core/src/testing/portrait.ts';

const { module } = loadKernel(false);
const HEADS = { 'the keeper': 'keeper', 'the signaller': 'signaller', 'the tide-goat': 'goat' };
const heads: [string, Portrait][] = [];
for (const [name, file] of Object.entries(HEADS)) {
  const portrait = await portraitOf(readFileSync(new URL(`../demo/assets/${file}.glb`, import.meta.url)), module!);
  heads.push([
    name,
    {
      ...portrait,
      setup: applyPatch(portrait.setup, { lights: { items: { key: null } }, camera: { position: [0, 1.6, 2.6], target: [0, 1.55, 0] } }),
    },
  ]);
}
const keeper = heads[0]![1];
/** What a setup draws on a head. */
const drawn = (portrait: Portrait, setup: Setup) => {
  const { reading } = standOn(portrait, setup);
  const pattern = reading && named(reading.byKey)?.pattern;
  return { pattern, ratio: reading?.ratio?.value, key: reading?.key?.id };
};
const words = ({ pattern, ratio }: ReturnType<typeof drawn>): string =>
  [
    pattern ? patternName(pattern).toLowerCase() : 'no pattern that has a name',
    ratio === undefined ? '' : ratio > 20 ? '> 20 : 1' : `${ratio.toFixed(1)} : 1`,
  ]
    .filter(Boolean)
    .join(', ');

const kits: Kit[] = [];
for (const { name, brief, tags, light } of RIG_PLANS) {
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
  const { kit } = kitOf(setup, ['rig'], { name, brief, notes: '', tags, shows });
  const read = heads.map(
    ([who, portrait]) =>
      `${who}: ${words(drawn(portrait, applyPatch(portrait.setup, putKit(portrait.setup, kit, { how: 'replace' }).patch)))}`,
  );
  kits.push({ ...kit, notes: `Put on as it is, measured: ${read.join('; ')}.` });
  console.log(`${name}: ${read.join('; ')}${begun.reached ? '' : ' (not reached)'}`);
}
for (const stage of STAGES) {
  const setup = applyPatch(keeper.setup, stagePatch(stage));
  kits.push(kitOf(setup, ['stage'], { name: `${stage.name}, stage`, brief: stage.words, notes: '', tags: ['stage'] }).kit);
}
writeFileSync(new URL('../demo/assets/kits.json', import.meta.url), `${JSON.stringify(kits, undefined, 1)}\n`);
console.log(`${kits.length} kits`);
