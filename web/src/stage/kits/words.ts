// Kits in words.
import { KIT_PARTS, orderOf, patternName, partsOf, PATTERNS, type Kit, type KitPart } from '@plinket/core';

export const PART_WORDS: { [part in KitPart]: string } = {
  rig: 'lights',
  stage: 'stage',
  cameras: 'cameras',
  look: 'look',
  targets: 'targets',
  turntable: 'turntable',
};

/** The parts of a kit, of which its lights are counted: “4 lights, stage”. */
export const partWords = (kit: Kit): string =>
  partsOf(kit)
    .map((part) => {
      const lights = part === 'rig' ? orderOf(kit.parts.rig!.lights).length : 0;
      return part === 'rig' ? `${lights} ${lights === 1 ? 'light' : 'lights'}` : PART_WORDS[part];
    })
    .join(', ');

/** What it drew on the face that it was made for; nothing where that was not read. */
export function showsWords({ shows }: Kit): string {
  const pattern = PATTERNS.find((p) => p === shows?.pattern);
  return [pattern ? patternName(pattern) : '', shows?.ratio ? `${shows.ratio.toFixed(1)} : 1` : ''].filter(Boolean).join(', ');
}

/** Parts that were chosen, in the order of a kit. */
export const chosenParts = (chosen: ReadonlySet<KitPart>, of: readonly KitPart[] = KIT_PARTS): KitPart[] => of.filter((p) => chosen.has(p));
