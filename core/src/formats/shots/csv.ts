// Shot lists as tables: comma-separated values (RFC 4180), by the package papaparse, which also finds semicolons and tabs.
import Papa from 'papaparse';
import { inOrder, SHOT_STATES, type Sequence, type Shot } from '../../setup/index.ts';
import { checkedShots, ShotListError, type ListedShot, type ShotList } from './listed.ts';

const COLUMNS = ['shot', 'first', 'last', 'state', 'brief', 'notes'] as const;
/** What columns are called elsewhere. */
const NAMES: { [name: string]: (typeof COLUMNS)[number] | 'frames' | undefined } = {
  shot: 'shot',
  code: 'shot',
  name: 'shot',
  'shot code': 'shot',
  first: 'first',
  start: 'first',
  in: 'first',
  'first frame': 'first',
  last: 'last',
  end: 'last',
  out: 'last',
  'last frame': 'last',
  frames: 'frames',
  duration: 'frames',
  length: 'frames',
  state: 'state',
  status: 'state',
  brief: 'brief',
  description: 'brief',
  notes: 'notes',
  note: 'notes',
};

/** @throws ShotListError that names each line and column */
export function readShotCsv(text: string, file: string): ShotList {
  const { data, errors } = Papa.parse<string[]>(text, { skipEmptyLines: 'greedy' });
  const broken = errors.filter((e) => e.code !== 'UndetectableDelimiter');
  if (broken.length)
    throw new ShotListError(
      file,
      broken.map((e) => ({ field: `line ${(e.row ?? 0) + 1}`, reason: e.message })),
    );
  const [head = [], ...rows] = data;
  const columns = head.map((name) => NAMES[name.trim().toLowerCase()]);
  if (!columns.includes('shot')) throw new ShotListError(file, [{ field: 'line 1', reason: 'no column is called shot, code or name' }]);
  const left = head.filter((name, i) => !columns[i] && name.trim());
  const problems: { field: string; reason: string }[] = [];
  const shots = rows.map((row, i): ListedShot & { where: string } => {
    const where = `line ${i + 2}`,
      of = (name: (typeof COLUMNS)[number] | 'frames') => row[columns.indexOf(name)]?.trim() ?? '';
    const whole = (name: 'first' | 'last' | 'frames') => {
      const value = of(name);
      if (!value) return {};
      if (/^\d{1,9}$/.test(value)) return { [name]: Number(value) };
      problems.push({ field: `${where}, ${name}`, reason: `“${value.slice(0, 40)}” is no number of a frame` });
      return {};
    };
    const state = SHOT_STATES.find((s) => s === of('state').toLowerCase());
    if (of('state') && !state)
      problems.push({ field: `${where}, state`, reason: `“${of('state').slice(0, 40)}” is none of ${SHOT_STATES.join(', ')}` });
    const said = (name: 'brief' | 'notes') => (columns.includes(name) ? { [name]: of(name) } : {});
    return {
      where,
      code: of('shot'),
      ...whole('first'),
      ...whole('last'),
      ...whole('frames'),
      ...(state ? { state } : {}),
      ...said('brief'),
      ...said('notes'),
    };
  });
  if (problems.length) throw new ShotListError(file, problems);
  return checkedShots(file, shots, left.length ? [`Columns that say nothing here: ${left.join(', ')}.`] : []);
}

/** A cell that a spreadsheet would take for a formula begins with an apostrophe (OWASP, CSV injection). */
const safe = (cell: string): string => (/^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell);

export function writeShotCsv({ shots }: Pick<Sequence, 'shots'>): string {
  const row = ({ code, first, last, state, brief, notes }: Shot) => [safe(code), first, last, state, safe(brief), safe(notes)];
  return `${Papa.unparse({ fields: [...COLUMNS], data: inOrder(shots).map(row) })}\r\n`;
}
