// Light and dark on the map, as shapes: which places are lit, which shadows hang together.
import { COLUMNS } from './grid.ts';
import { CELLS, FLANK, NOSE, type FaceMap } from './map.ts';
import type { CellLight } from './lookup.ts';
import { regionNumber } from './regions.ts';

const OF_NOSE = regionNumber('nose');

/** What a place is under one light; 0 where there is no place. */
export const LIT = 1,
  /** Turned away, or in the shade of its own form. */
  TURNED_AWAY = 2,
  /** Something's shadow falls on it. */
  CAST = 3,
  /** … the nose's. */
  NOSE_CAST = 4;

/** A place is dark below this share of the light that the face's brightest places get; and in shadow below this share of what would come. */
const DARK = 0.09,
  HALF = 0.5;

/** The light that the brightest places of the face get: what a twentieth of its skin exceeds if nothing shades it. */
function brightest(map: FaceMap, { open }: Pick<CellLight, 'open'>): number {
  const values = new Float32Array(CELLS);
  let n = 0;
  // every third place says it as well
  for (let c = 0; c < CELLS; c += 3) if (map.there[c] && map.object[c] === map.skin) values[n++] = open[c]!;
  const known = values.subarray(0, n).sort();
  return n ? known[Math.floor(0.95 * (n - 1))]! : 0;
}

/** How far behind the nose's base, in heights of the head, and how far aside, in half widths of the nose, its form still reaches. */
const BEHIND = 0.1,
  ASIDE = 1.9;
/** A nose whose base stands further before the pupils than this, in heights of the head, is a muzzle; a human one stands less than 0.1 before them. */
const MUZZLE = 0.14;

/** Whether the nose of a face is that of a muzzle. */
export const isMuzzle = ({ face: { points } }: Pick<FaceMap, 'face'>): boolean => points.noseBase[2] - points.pupilL[2] >= MUZZLE;

/**
 * Whether a place that is not of the nose itself still belongs to its form: flanks of a muzzle. Where they turn away from the light the eye sees the
 * nose's shadow.
 */
function onMuzzle(map: FaceMap, c: number): boolean {
  const { local, region, face, measures } = map,
    { noseBase, pupilL } = face.points;
  if (!isMuzzle(map) || region[c] === OF_NOSE) return false;
  const aside = Math.abs(local[c * 3]! - noseBase[0]);
  return local[c * 3 + 2]! > noseBase[2] - BEHIND && aside < ASIDE * measures.noseWide && local[c * 3 + 1]! < pupilL[1];
}

/** Whether what the nose keeps light from, from close by, is not the nose itself: beside it, or the lip under its base. */
const offNose = ({ region, local, face }: FaceMap, c: number): boolean =>
  region[c] !== OF_NOSE || local[c * 3 + 1]! < face.points.noseBase[1];

/** Places next to one on the grid, over corners too. */
function beside(c: number): number[] {
  const column = c % COLUMNS,
    out: number[] = [];
  for (let row = c - COLUMNS; row <= c + COLUMNS; row += COLUMNS)
    for (let k = column > 0 ? -1 : 0; k <= (column < COLUMNS - 1 ? 1 : 0); k++)
      if (row + k >= 0 && row + k < CELLS && row + k !== c) out.push(row + k);
  return out;
}

/** What each place is under a light. */
export function shadesOf(map: FaceMap, light: CellLight): Uint8Array {
  const { shadedBy } = light;
  const peak = brightest(map, light);
  const out = new Uint8Array(CELLS),
    unowned: number[] = [];
  for (let c = 0; c < CELLS; c++) {
    if (!map.there[c]) continue;
    const open = light.open[c]!,
      lit = light.lit[c]!;
    if (open <= DARK * peak) out[c] = onMuzzle(map, c) ? NOSE_CAST : TURNED_AWAY;
    else if (lit < HALF * open) {
      out[c] = shadedBy[c] === NOSE || (shadedBy[c] === FLANK && offNose(map, c)) ? NOSE_CAST : CAST;
      if (shadedBy[c] === 0) unowned.push(c);
    } else out[c] = lit <= DARK * peak ? TURNED_AWAY : LIT;
  }
  // rays find a shadow a place further than the look-up did that knows whose it is: there it is what lies beside it
  const joins = unowned.filter((c) => beside(c).some((n) => out[n] === NOSE_CAST));
  for (const c of joins) out[c] = NOSE_CAST;
  return out;
}

/**
 * Places that hang together on the grid, over corners too, among those that are 1 in `is`, which is used up; the largest first by area.
 */
export function groups(map: FaceMap, is: Uint8Array): number[][] {
  const out: number[][] = [];
  for (let c = 0; c < CELLS; c++) {
    if (!is[c]) continue;
    const group = [c];
    is[c] = 0;
    for (let k = 0; k < group.length; k++) {
      for (const n of beside(group[k]!))
        if (is[n]) {
          is[n] = 0;
          group.push(n);
        }
    }
    out.push(group);
  }
  const sizes = new Map(out.map((g) => [g, areaOf(map, g)]));
  return out.sort((a, b) => sizes.get(b)! - sizes.get(a)!);
}

/** A mark for each place. */
export function marked(is: (c: number) => boolean): Uint8Array {
  const out = new Uint8Array(CELLS);
  for (let c = 0; c < CELLS; c++) if (is(c)) out[c] = 1;
  return out;
}

export const areaOf = (map: FaceMap, cells: readonly number[]): number => cells.reduce((sum, c) => sum + map.area[c]!, 0);
