// Shot lists as an edit decision list of the CMX3600 kind: one event a shot on the picture's track, its name in the comment FROM CLIP NAME, its frames in a
// comment of their own. The columns are those of the format's manual (from memory).
import { inOrder, shotFrames, type FieldProblem, type Sequence } from '../../setup/index.ts';
import { checkedShots, ShotListError, type ListedShot, type ShotList } from './listed.ts';
import { canDrop, framesAt, timecodeOf } from './timecode.ts';

/** Number, reel, track, what happens, frames of it, source from and to, record from and to. */
const EVENT = /^\s*(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{3}|K[BO]?)\s+(?:(\d{1,4})\s+)?(\S+)\s+(\S+)\s+(\S+)\s+(\S+)\s*$/;
const NAME = /^\s*\*\s*FROM CLIP NAME:\s*(.+?)\s*$/i;
const FRAMES = /^\s*\*\s*FRAMES:\s*(\d{1,9})\s*-\s*(\d{1,9})\s*$/i;
const MODE = /^\s*FCM:\s*(NON[- ]?DROP|DROP)/i;
const SPEED = /^\s*M2\s/;

interface Event extends ListedShot {
  where: string;
  number: string;
  from: number;
  to: number;
}

/**
 * @param fps frames a second of the cut, which the format does not say
 * @throws ShotListError that names each line
 */
export function readShotEdl(text: string, file: string, fps: number): ShotList {
  const notes: string[] = [],
    problems: FieldProblem[] = [],
    events: Event[] = [],
    left = { black: 0, sound: 0, speed: 0 };
  let drop = false,
    current: Event | undefined;
  text.split(/\r\n|\r|\n/).forEach((line, i) => {
    const where = `line ${i + 1}`;
    const mode = MODE.exec(line);
    if (mode) drop = /^DROP/i.test(mode[1]!);
    const event = EVENT.exec(line);
    if (event) {
      current = undefined;
      const [, number, reel, track, , , , , recordIn, recordOut] = event as unknown as string[];
      if (!/^(V\d?|B|AA\/V|A\d?\/V)$/i.test(track!)) return void left.sound++;
      if (/^(BL|BLACK)$/i.test(reel!)) return void left.black++;
      try {
        const [from, to] = [framesAt(recordIn!, fps, drop), framesAt(recordOut!, fps, drop)];
        if (to <= from) problems.push({ field: where, reason: `event ${number} ends no later than it begins` });
        current = { where, number: number!, code: reel!, frames: Math.max(1, to - from), from, to };
        events.push(current);
      } catch (error) {
        problems.push({ field: where, reason: (error as Error).message });
      }
      return;
    }
    if (SPEED.test(line)) left.speed++;
    if (!current) return;
    const name = NAME.exec(line),
      frames = FRAMES.exec(line);
    if (name) current.code = name[1]!;
    if (frames) Object.assign(current, { first: Number(frames[1]), last: Number(frames[2]) });
  });
  if (problems.length) throw new ShotListError(file, problems);
  if (!events.length) throw new ShotListError(file, [{ field: '', reason: 'it has no event of a picture' }]);
  events.sort((a, b) => a.from - b.from);
  events.forEach((e, i) => {
    const next = events[i + 1];
    if (next && next.from < e.to) notes.push(`Events ${e.number} and ${next.number} lie over each other by ${e.to - next.from} frames.`);
  });
  if (left.black) notes.push(`Black is no shot: ${left.black} events were left out.`);
  if (left.sound) notes.push(`Tracks of sound were left out: ${left.sound} events.`);
  if (left.speed) notes.push(`Changes of speed were left out: ${left.speed}.`);
  return checkedShots(
    file,
    events.map(({ number: _, from: __, to: ___, ...shot }) => shot),
    notes,
  );
}

/** Where a cut begins: one hour. Common practice, no source. */
const BEGINS = '01:00:00:00';

/** A title without what would end its line. */
const oneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

/** Writes the cut of a sequence; its source times are the shots' frames as timecode. */
export function writeShotEdl({ name, shots }: Pick<Sequence, 'name' | 'shots'>, fps: number): string {
  const drop = canDrop(fps),
    at = (frame: number) => timecodeOf(frame, fps, drop);
  let record = framesAt(BEGINS, fps, drop);
  const lines = [`TITLE: ${oneLine(name)}`, `FCM: ${drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`, ''];
  inOrder(shots).forEach((shot, i) => {
    const length = shotFrames(shot);
    const times = [shot.first, shot.last + 1, record, record + length].map(at);
    lines.push(`${String(i + 1).padStart(3, '0')}  ${'AX'.padEnd(8)} V     C        ${times.join(' ')}`);
    lines.push(`* FROM CLIP NAME: ${oneLine(shot.code)}`, `* FRAMES: ${shot.first}-${shot.last}`, '');
    record += length;
  });
  return lines.join('\r\n');
}
