// Kits in words, and what lists of them go by.
import { inOrder, isPlaced, KIT_PARTS, NO_HEAD, orderOf, patternName, partsOf, PATTERNS, type Kit, type KitPart } from '@plinket/core';

/** Under which kits are asked for. */
export const KITS = ['kits'];

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

const readWords = (pattern: string | undefined, ratio: number | undefined): string => {
  const named = PATTERNS.find((p) => p === pattern);
  return [named ? patternName(named) : '', ratio ? `${ratio > 20 ? '> 20' : ratio.toFixed(1)} : 1` : ''].filter(Boolean).join(', ');
};

/** What was read of it on one of those that it was seen on. */
export const shownWords = ({ pattern, ratio }: Kit['shown'][number]): string => readWords(pattern, ratio);

/** What it drew on the face that it was made for; nothing where that was not read. */
export const showsWords = ({ shows }: Kit): string => readWords(shows?.pattern, shows?.ratio);

/** Every light of a kit with its size, its distance in head heights and where it stands: numbers of whoever it is put on. */
export function lightLines({ parts: { rig } }: Kit): string[] {
  return (rig ? inOrder(rig.lights) : []).map((light) => {
    const heads = (metres: number) => `${(metres / NO_HEAD.headHeight).toFixed(1)}`;
    if (!isPlaced(light)) return light.name;
    const { azimuth, elevation, distance } = light.place,
      side = azimuth === 0 ? 'in front' : `${Math.abs(Math.round(azimuth))}° ${azimuth > 0 ? 'to its left' : 'to its right'}`;
    return `${light.name}: ${side}, ${Math.abs(Math.round(elevation))}° ${elevation < 0 ? 'below' : 'up'}, ${heads(distance)} heads away`;
  });
}

/** Tags as they are typed, by commas. */
export const tagsOf = (text: string): string[] =>
  text
    .split(',')
    .map((t) => t.trim().slice(0, 40))
    .filter(Boolean)
    .slice(0, 20);

/** Parts that were chosen, in the order of a kit. */
export const chosenParts = (chosen: ReadonlySet<KitPart>, of: readonly KitPart[] = KIT_PARTS): KitPart[] => of.filter((p) => chosen.has(p));
