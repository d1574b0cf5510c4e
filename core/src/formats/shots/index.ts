import { FILE_LIMITS } from '../../math/index.ts';
import type { Sequence } from '../../setup/index.ts';
import { textOf } from '../text.ts';
import { readShotCsv, writeShotCsv } from './csv.ts';
import { readShotEdl, writeShotEdl } from './edl.ts';
import { ShotListError, type ShotList } from './listed.ts';
import { readShotOtio, writeShotOtio } from './otio.ts';

export { compareShots, FIRST_FRAME, ShotListError, type ListedShot, type ShotList, type ShotReport } from './listed.ts';
export { framesAt, timecodeOf } from './timecode.ts';

/** How a shot list can be written, and what its file ends in. */
export const SHOT_LISTS = ['csv', 'edl', 'otio'] as const;
export type ShotListKind = (typeof SHOT_LISTS)[number];
/** Most bytes of a shot list. */
export const MAX_SHOT_LIST_BYTES = FILE_LIMITS.shotListBytes;

/**
 * Reads a shot list by the ending of its name: .csv, .edl, .otio.
 * @param fps frames a second, which an EDL does not say
 * @throws ShotListError that names the file, each place and reason
 */
export function readShotList(bytes: Uint8Array, file: string, fps: number): ShotList {
  if (bytes.length > MAX_SHOT_LIST_BYTES) throw new ShotListError(file, [{ field: '', reason: 'it is larger than 4 MB' }]);
  const text = textOf(bytes),
    ending = /\.([^.]+)$/.exec(file)?.[1]?.toLowerCase();
  if (ending === 'csv' || ending === 'tsv' || ending === 'txt') return readShotCsv(text, file);
  if (ending === 'edl') return readShotEdl(text, file, fps);
  if (ending === 'otio' || ending === 'json') return readShotOtio(text, file);
  throw new ShotListError(file, [{ field: '', reason: 'a shot list ends in .csv, .edl or .otio' }]);
}

/** Writes the shots of a sequence. */
export function writeShotList(kind: ShotListKind, sequence: Pick<Sequence, 'name' | 'shots'>, fps: number): string {
  return kind === 'csv' ? writeShotCsv(sequence) : kind === 'edl' ? writeShotEdl(sequence, fps) : writeShotOtio(sequence, fps);
}
