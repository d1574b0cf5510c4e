// How true readings and placings are, on the demo's three heads: whether rays find the wished pattern where a light was placed (straight and turned
// by 20° to either side), whether a look-up says what rays say, and whether an eye that knows nothing of the face map, looking at a rendered face,
// calls it the same.
import { patternName, placePattern, type Pattern } from '@plinket/core';
import { nameOf } from './eye.ts';
import { chances, heads } from './heads.ts';
import { report } from './report.ts';
import { portrait, rendered } from './view.ts';

const PATTERNS = ['loop', 'closed triangle', 'split', 'butterfly', 'under', 'rim', 'flat'] as const;
const RIGS = 207;
const failed: string[] = [],
  apart = new Map<string, number>();
let asked = 0,
  reached = 0,
  rigs = 0,
  same = 0,
  called = 0;
const chance = chances(3);
const say = (p: Pattern | undefined): string => (p ? patternName(p).toLowerCase() : 'none');
for await (const head of heads([-20, 0, 20])) {
  const { name, turn, map, lightAt, both } = head;
  for (const pattern of PATTERNS)
    for (const from of ['left', 'right'] as const) {
      const placed = placePattern(map, { pattern, from }, lightAt);
      const { exact } = both(placed.azimuth, placed.elevation);
      asked++;
      if (exact === pattern) reached++;
      else
        failed.push(
          `${name} ${turn}° ${say(pattern)} ${from} → ${say(exact)} at ${placed.azimuth}°, ${placed.elevation}°${placed.reached ? '' : ' (said so)'}`,
        );
    }
  const face = portrait(head);
  for (let k = 0; k < Math.ceil(RIGS / 9); k++) {
    const azimuth = chance() * 260 - 130,
      elevation = chance() * 100 - 35;
    const { looked, exact } = both(azimuth, elevation);
    rigs++;
    if (looked === exact) same++;
    const eye = nameOf(await rendered(head, face, azimuth, elevation));
    if (eye === exact) called++;
    else {
      const what = `${name} ${say(exact)}, by the eye ${say(eye)}`;
      apart.set(what, (apart.get(what) ?? 0) + 1);
    }
  }
}
report('accuracy', { placed: reached / asked, classified: called / rigs, drag_vs_exact: same / rigs }, [
  `${asked} wishes; not shown by rays: ${failed.length ? failed.join('; ') : 'none'}`,
  `${rigs} random keys; an eye that knows no map called ${called} the same; else: ${[...apart]
    .sort((a, b) => b[1] - a[1])
    .map(([what, n]) => `${what} ${n}`)
    .join('; ')}`,
]);
