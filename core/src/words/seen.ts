// What a picture shows of a face, and what is to be said about it, in sentences.
import type { Finding, Seen } from '../face/index.ts';

const percent = (v: number): string => `${v < 10 ? v.toFixed(1) : Math.round(v)} %`;
const stops = (v: number): string => `${Math.abs(v).toFixed(1)} stops`;

/** From so many stops of red against blue on, one side is warm and the other cool. */
const WARM = 0.12;

/** How lit and shadow skin differ in colour. */
export function colourWords({ difference, warmer }: NonNullable<Seen['colour']>): string {
  const how = warmer > WARM ? 'warm light, cool shadow' : warmer < -WARM ? 'cool light, warm shadow' : 'light and shadow of one colour';
  return `${how}, ΔE ${difference.toFixed(0)}`;
}

/** Measures of the picture as short lines, the most important first. */
export function seenWords(seen: Seen): string[] {
  const { separation, coverage, colour, clipped, crushed } = seen;
  const out: string[] = [];
  if (separation !== undefined)
    out.push(
      Math.abs(separation) < 0.25
        ? 'Figure and ground are alike at the edge.'
        : `The figure is ${stops(separation)} ${separation > 0 ? 'brighter' : 'darker'} than its ground.`,
    );
  const sides = (['left', 'right'] as const)
    .filter((s) => coverage[s] !== undefined)
    .map((s) => `${percent(100 * coverage[s]!)} on the ${s}`);
  if (sides.length) out.push(`Set apart along the edge: ${sides.join(', ')} of the picture.`);
  if (colour) out.push(`Skin: ${colourWords(colour)}.`);
  out.push(
    clipped + crushed < 0.001
      ? 'No skin is clipped or crushed.'
      : `Skin clipped ${percent(100 * clipped)}, crushed ${percent(100 * crushed)}.`,
  );
  return out;
}

/** A finding: what it is, why it may be left, and what mends it. */
export interface FindingWords {
  says: string;
  leave: string;
  mend: string;
}

/** `nameOf` says what a light, or a character, is called. */
export function findingWords(finding: Finding, nameOf: (id: string) => string): FindingWords {
  const light = finding.light === undefined ? '' : nameOf(finding.light),
    other = finding.other === undefined ? '' : nameOf(finding.other),
    { measure } = finding;
  switch (finding.kind) {
    case 'idle':
      return {
        says: `${light} adds ${measure.toFixed(2)} stops at most anywhere in the picture.`,
        leave: 'It is meant for another frame, or for what a mirror shows.',
        mend: `Switch ${light} off`,
      };
    case 'doubled':
      return {
        says: `${light} draws a second shadow of the nose beside that of ${other} (${percent(measure)} of its light).`,
        leave: 'Two suns are the story.',
        mend: `${light} down until its shadow goes`,
      };
    case 'hot':
      return {
        says: `${percent(measure)} of the skin is ${stops(finding.stops ?? 2)} above the rest: hot spots${light && `, most by ${light}`}.`,
        leave: 'Wet or oiled skin is wished.',
        mend: `Half of ${light}’s highlight`,
      };
    case 'in frame':
      return {
        says: `The source of ${light} stands in the picture.`,
        leave: 'It is a lamp that may be seen.',
        mend: 'Take it out of the picture',
      };
    case 'clipped':
      return {
        says: `${percent(measure)} of the skin is clipped.`,
        leave: 'Blown-out light is wished.',
        mend: 'Two thirds of a stop less exposure',
      };
    case 'flat ratio':
      return {
        says: `Lit and shadow side are ${stops(measure)} apart: flat.`,
        leave: 'It is meant to be even.',
        mend: `2 : 1 by ${light}`,
      };
    case 'strong colour':
      return {
        says: `${light} colours the face strongly (ΔE ${measure.toFixed(0)} against white light).`,
        leave: 'The colour is the story.',
        mend: `Half of ${light}’s colour`,
      };
    case 'reaches nothing':
      return {
        says: `${light} lights nothing that is here: its reach leaves everything out.`,
        leave: 'It waits for something that is to come.',
        mend: `${light} lights everything again`,
      };
    case 'stage spot':
      return {
        says: `${light} makes a hot spot on the stage: ${stops(measure)} over its middle, on ${percent(finding.area ?? 0)} of what is seen of it.`,
        leave: 'The spot is wished.',
        mend: `${light} leaves the stage alone`,
      };
    case 'shadows':
      return {
        says: `${measure} shadows lie on the stage: that of ${light}, and of ${(finding.others ?? []).map(nameOf).join(', ')}.`,
        leave: 'Several lights are the story.',
        mend: `Only the shadow of ${light}`,
      };
    case 'half space':
      return {
        says: `${light} ends on the stage where its own plane cuts it; turned ${measure.toFixed(0)}° further away, its edge is out of the picture.`,
        leave: 'The fall-off is soft enough.',
        mend: '',
      };
    case 'stage edge':
      return { says: 'The picture sees past the stage.', leave: 'What lies behind may be seen.', mend: 'The stage as wide as the picture' };
    case 'floating':
      return {
        says: `${finding.subject === undefined ? 'A figure' : nameOf(finding.subject)} stands on nothing: ${measure.toFixed(0)} cm over the ground.`,
        leave: 'It is meant to float.',
        mend: 'Set it down',
      };
    case 'front':
      return {
        says: `${light} stands ${measure.toFixed(0)}° from the camera and shows no form.`,
        leave: 'A flat face is wished.',
        mend: `Loop by ${light}`,
      };
  }
}
