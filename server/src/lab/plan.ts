// What a job's source comes to: frames, each with its setup, its number and what it is called.
import {
  chosenOf,
  framesOf,
  inOrder,
  migrateSetup,
  nameOfValue,
  orderOf,
  putKit,
  rebalanced,
  type Kit,
  type NameWord,
  type Production,
  type Setup,
} from '@plinket/core';
import { MOST_FRAMES, type JobWish, type Task } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { HttpProblem, notFound } from '../problem.ts';
import type { DocumentService } from '../services/documents.ts';
import type { SequenceService } from '../services/sequences.ts';
import type { SetupService } from '../services/setups.ts';

/** A frame that is to be made. */
export interface Planned {
  label: string;
  frame: number;
  /** What its name may say besides the job's name and version. */
  words: Partial<Record<NameWord, string>>;
  setup: Setup;
  /** What of the task only this frame has. */
  task: Pick<Task, 'later' | 'turn' | 'films'>;
}

export interface Documents {
  setups: Pick<SetupService, 'get'>;
  sequences: Pick<SequenceService, 'get'>;
  productions: Pick<DocumentService<Production>, 'get'>;
  kits: Pick<DocumentService<Kit>, 'get'>;
  /** A kept blob as bytes. */
  blob(sha256: string): Promise<Uint8Array>;
}

const refused = (field: string, reason: string): HttpProblem =>
  new HttpProblem(422, 'invalid', 'The job was not sent.', { detail: reason, errors: [{ field, reason }] });
/** Frames a second of a sequence that belongs to no production. */
const FPS = 24;

async function ofSetups(ids: readonly string[], { setups }: Documents): Promise<Planned[]> {
  const label = labels(),
    out: Planned[] = [];
  for (const id of ids) {
    const { document } = await setups.get(id);
    out.push(still(label(document.name), document));
  }
  return out;
}

const still = (label: string, setup: Setup): Planned => ({ label, frame: 1, words: { shot: label }, setup, task: {} });

/** Tells those apart that would be called the same as files. */
function labels(): (name: string) => string {
  const taken = new Set<string>();
  return (name) => {
    let label = name;
    // the number stands first: long names are cut at their ends
    for (let times = 2; taken.has(nameOfValue(label)); times++) label = `${times} ${name}`;
    taken.add(nameOfValue(label));
    return label;
  };
}

async function ofKits(source: Extract<JobWish['source'], { kind: 'kits' }>, { setups, kits }: Documents): Promise<Planned[]> {
  const count = source.setups.length * source.kits.length;
  if (count > MOST_FRAMES) throw refused('source', `it has ${count} frames; a job has at most ${MOST_FRAMES}`);
  const label = labels(),
    out: Planned[] = [];
  const put = [];
  for (const id of source.kits) put.push((await kits.get(id)).document);
  for (const id of source.setups) {
    const { document } = await setups.get(id);
    for (const kit of put) out.push(still(label(`${kit.name}, ${document.name}`), putKit(document, kit, { how: 'replace' }).setup));
  }
  return out;
}

async function ofTurn(id: string, { setups }: Documents): Promise<Planned[]> {
  const { document } = await setups.get(id);
  const plan = document.turntable;
  if (!plan) throw refused('source.setup', `“${document.name}” has no turntable: plan one first`);
  return Array.from({ length: framesOf(plan) }, (_, i) => ({
    label: document.name,
    frame: i + 1,
    words: { shot: document.name },
    setup: document,
    task: { turn: plan },
  }));
}

async function ofSequence(source: Extract<JobWish['source'], { kind: 'sequence' }>, documents: Documents): Promise<Planned[]> {
  const { document: sequence } = await documents.sequences.get(source.sequence);
  const wanted = source.shots ?? orderOf(sequence.shots);
  const gone = wanted.find((id) => !sequence.shots.items[id]);
  if (gone) throw refused('source.shots', `${gone} is no shot of “${sequence.name}”`);
  if (!wanted.length) throw refused('source.sequence', `“${sequence.name}” has no shots`);
  const production = sequence.production && (await documents.productions.get(sequence.production).catch(() => undefined));
  const fps = production ? production.document.fps : FPS,
    words = { sequence: sequence.name, ...(production ? { production: production.document.name } : {}) };
  const out: Planned[] = [];
  for (const id of orderOf(sequence.shots)) {
    if (!wanted.includes(id)) continue;
    const shot = sequence.shots.items[id]!,
      { document } = await documents.setups.get(id);
    for (const frame of chosenOf(shot, source.frames)) {
      const later = (frame - shot.first) / fps;
      out.push({ label: shot.code, frame, words: { ...words, shot: shot.code }, setup: document, task: later > 0 ? { later } : {} });
    }
  }
  return out;
}

/** The EXR of a frame `f` that holds its lights: its own, or the one that it was balanced from. */
export const FILMS = `coalesce((SELECT x ->> 'sha256' FROM jsonb_array_elements(f.files) x WHERE x ->> 'name' LIKE '%.exr' LIMIT 1), f.films)`;

async function ofFinished(
  source: Extract<JobWish['source'], { kind: 'balance' }>,
  manager: EntityManager,
  documents: Documents,
): Promise<Planned[]> {
  type Row = { label: string; frame: number; setup: string; films: string | null; task: Planned['task'] & { words: Planned['words'] } };
  const rows = await manager.query<Row[]>(
    `SELECT label, frame, setup, task, ${FILMS} AS films FROM render_frame f WHERE job = $1 AND state = 'done' ORDER BY n`,
    [source.job],
  );
  if (!rows.length) throw refused('source.job', 'it has no finished frames');
  const without = rows.find((r) => !r.films);
  if (without) throw refused('source.job', `its frames were rendered without an EXR: ${without.label} holds no lights of its own`);
  const setups = new Map<string, Setup>();
  for (const sha256 of new Set(rows.map((r) => r.setup)))
    setups.set(sha256, rebalanced(migrateSetup(JSON.parse(Buffer.from(await documents.blob(sha256)).toString())) as Setup, source.balance));
  return rows.map(({ label, frame, setup, films, task }) => ({
    label,
    frame,
    words: task.words,
    setup: setups.get(setup)!,
    task: { films: films! },
  }));
}

/** The frames of a wish, in their order. @throws HttpProblem 404, or 422 that names the field */
export async function planFrames(wish: JobWish, manager: EntityManager, documents: Documents): Promise<Planned[]> {
  const { source } = wish;
  switch (source.kind) {
    case 'setups':
      return ofSetups(source.setups, documents);
    case 'kits':
      return ofKits(source, documents);
    case 'turn':
      return ofTurn(source.setup, documents);
    case 'sequence':
      return ofSequence(source, documents);
    case 'balance':
      if (!(await manager.query<object[]>('SELECT FROM render_job WHERE id = $1', [source.job])).length) throw notFound('job');
      return ofFinished(source, manager, documents);
  }
}

/** How much work a frame is: millions of pixels × samples × lights that are on. What is only balanced is as good as none. */
export function workOf({ setup, task }: Planned, { width, height, samples }: { width: number; height: number; samples: number }): number {
  const lights = Math.max(1, inOrder(setup.lights).length);
  return (width * height * (task.films ? 1 : samples * lights)) / 1e6;
}
