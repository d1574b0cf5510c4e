// Placing on the demo's three heads: how long a pattern takes from both sides, with its check by rays on the mesh.
import { placePattern } from '@plinket/core';
import { heads } from './heads.ts';
import { median, report } from './report.ts';

const PATTERNS = ['loop', 'closed triangle', 'split', 'butterfly', 'under', 'rim', 'flat'] as const;
const times: number[] = [];
for await (const { map, lightAt, both } of heads([0]))
  for (const pattern of PATTERNS)
    for (const from of ['left', 'right'] as const) {
      const start = performance.now();
      const { azimuth, elevation } = placePattern(map, { pattern, from }, lightAt);
      both(azimuth, elevation);
      times.push(performance.now() - start);
    }
report('placing', { pattern_ms: median(times) }, [`${times.length} wishes on three heads: slowest ${Math.max(...times).toFixed(0)} ms`]);
