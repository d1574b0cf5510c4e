import { applyPatch, emptySetup, parseSetup, stagePatch, STAGES, type Setup } from '@plinket/core';

/** What the Stage does first with a setup that was just made. */
export type Begin = { standIn: true } | { files: File[] };

/** Ways to begin a setup: from black, or from one of the stages. */
export type Origin = 'black' | (typeof STAGES)[number]['id'];

/** A setup without light for a portrait: black, or on a stage. */
export function beginning(origin: Origin, name = 'Untitled'): Setup {
  const stage = STAGES.find((s) => s.id === origin) ?? STAGES.find((s) => s.id === 'black')!;
  const bare = emptySetup(name);
  const portrait = { ...bare, camera: { ...bare.camera, name: 'Portrait', focal: 85, aspect: 0.8, ev: 7 } };
  return parseSetup(applyPatch(portrait, stagePatch(stage)));
}

/** What a copy is called: “… copy”, “… copy 2”. */
export function copyName(name: string): string {
  const found = / copy( (\d+))?$/.exec(name);
  if (!found) return `${name.slice(0, 110)} copy`;
  return `${name.slice(0, found.index).slice(0, 106)} copy ${Number(found[2] ?? 1) + 1}`;
}
