// What is sent to the Lab: what, how well, and what the files are called. Says beforehand what it comes to.
import type { JobSource, JobWish, Outputs } from '@plinket/contract';
import {
  frameSize,
  FRAME_CHOICES,
  inOrder,
  nameBy,
  NAME_TEMPLATE,
  NAME_WORDS,
  PASSES,
  QUALITIES,
  QUALITY_WORDS,
  templateProblem,
  type FrameChoice,
  type Pass,
  type QualityName,
  type Setup,
} from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { labApi } from '../api/lab.ts';
import { secondsWords } from '../parts/amounts.ts';
import { WithKits, type With } from './WithKits.tsx';

/** Something that can be sent: a still, a turntable, a sequence. */
export interface Sendable {
  words: string;
  /** How many frames it has, by the choice of frames. */
  frames(choice: FrameChoice, chosen: With): number;
  source(choice: FrameChoice, chosen: With): JobSource;
  /** The setup that kits are put on, where they are: kits, and others that they are put on, are chosen. */
  under?: string;
  /** Whether frames can be chosen, and whether it has several shots. */
  chooses?: boolean;
  shots?: boolean;
}

interface Props {
  name: string;
  sendables: readonly Sendable[];
  /** A setup like those that are sent, for what it will take; nothing where it is not known. */
  like: Setup | undefined;
  leave(): void;
}

const CHOICES: Record<FrameChoice, string> = { one: 'the first frame of each', three: 'first, middle and last', all: 'all frames' };
const FIELD = 'flex h-7 items-center gap-2 border-b hairline';

/** How long it will take, by what was rendered of late. */
function useEstimate(like: Setup | undefined, frames: number, quality: { side: number; samples: number }): string {
  const nodes = useQuery({ queryKey: ['lab', 'nodes'], queryFn: labApi.nodes });
  if (!nodes.data) return '';
  const here = nodes.data.items.filter((n) => n.here),
    cores = here.reduce((n, node) => n + (node.cores ?? 1), 0);
  if (!here.length) return 'No node is there: it waits until one comes.';
  const by = `on ${here.length} node${here.length === 1 ? '' : 's'} with ${cores} core${cores === 1 ? '' : 's'}`;
  if (nodes.data.pace === undefined || !like) return `How long it takes, ${by}, is known after the first frame.`;
  const { width, height } = frameSize(like, quality.side);
  const work = (frames * width * height * quality.samples * Math.max(1, inOrder(like.lights).length)) / 1e6;
  return `About ${secondsWords(Math.max(1, (work * nodes.data.pace) / cores))} ${by}, by what was rendered of late.`;
}

export function SendJob({ name: called, sendables, like, leave }: Props) {
  const navigate = useNavigate();
  const [name, setName] = useState(called);
  const [which, setWhich] = useState(0);
  const [choice, setChoice] = useState<FrameChoice>('one');
  const [preset, setPreset] = useState<QualityName>('talk');
  const [png, setPng] = useState<Outputs['png']>(8);
  const [exr, setExr] = useState(true);
  const [passes, setPasses] = useState<readonly Pass[]>([]);
  const [template, setTemplate] = useState(NAME_TEMPLATE);
  const [urgent, setUrgent] = useState(false);
  const [chosen, setChosen] = useState<With>({ kits: [], setups: [] });
  const [sending, setSending] = useState(false);
  const sendable = sendables[which]!,
    frames = sendable.frames(choice, chosen),
    quality = QUALITIES[preset];
  const estimate = useEstimate(like, frames, quality);
  const problem = templateProblem(template, {
    frames: frames > 1 && !(sendable.shots && choice === 'one'),
    shots: sendable.shots === true,
  });
  const nothing = png === 0 && !exr;
  const send = () => {
    setSending(true);
    const wish: JobWish = {
      name: name.trim(),
      source: sendable.source(choice, chosen),
      quality: { ...quality, seed: 1 },
      outputs: { png, exr, passes: exr ? [...passes] : [] },
      template,
      priority: urgent ? 5 : 0,
    };
    labApi
      .send(wish)
      .then((job) => navigate(`/lab/${job.id}`))
      .catch((error: Error) => {
        toast.error(`Nothing was sent: ${error.message}`);
        setSending(false);
      });
  };
  return (
    <dialog open className="modal modal-open" aria-label="Send to the Lab" onKeyDown={(e) => e.key === 'Escape' && leave()}>
      <form
        className="modal-box w-120"
        data-testid="send-job"
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <h2 className="mb-2 text-base font-semibold">Send to the Lab</h2>
        <label className={FIELD}>
          <span className="quiet w-28">called</span>
          <input
            className="min-w-0 flex-1 rounded-sm bg-transparent px-1 font-semibold hover:bg-base-300 focus:bg-base-300"
            value={name}
            maxLength={120}
            required
            autoFocus
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        {sendables.length > 1 && (
          <label className={FIELD}>
            <span className="quiet w-28">what</span>
            <select className="flex-1 rounded-sm bg-base-200 px-1" value={which} onChange={(e) => setWhich(Number(e.target.value))}>
              {sendables.map((s, i) => (
                <option key={s.words} value={i}>
                  {s.words}
                </option>
              ))}
            </select>
          </label>
        )}
        {sendable.under !== undefined && <WithKits under={sendable.under} chosen={chosen} choose={setChosen} />}
        {sendable.chooses && (
          <label className={FIELD}>
            <span className="quiet w-28">frames</span>
            <select
              className="flex-1 rounded-sm bg-base-200 px-1"
              value={choice}
              onChange={(e) => setChoice(e.target.value as FrameChoice)}
            >
              {FRAME_CHOICES.map((c) => (
                <option key={c} value={c}>
                  {CHOICES[c]}
                </option>
              ))}
            </select>
          </label>
        )}
        <fieldset className="border-b hairline py-1">
          <legend className="sr-only">Quality</legend>
          {(Object.keys(QUALITIES) as QualityName[]).map((q) => (
            <label key={q} className="flex h-6 items-center gap-2">
              <input type="radio" name="quality" className="radio radio-xs" checked={preset === q} onChange={() => setPreset(q)} />
              <b className="w-16">{q}</b>
              <span className="min-w-0 flex-1 truncate">{QUALITY_WORDS[q]}</span>
              <span className="quiet text-2xs">
                {QUALITIES[q].side} px, {QUALITIES[q].samples} samples
              </span>
            </label>
          ))}
        </fieldset>
        <div className={FIELD}>
          <span className="quiet w-28">files</span>
          <label className="flex items-center gap-1.5">
            PNG
            <select
              className="rounded-sm bg-base-200 px-1"
              aria-label="PNG"
              value={png}
              onChange={(e) => setPng(Number(e.target.value) as Outputs['png'])}
            >
              <option value={8}>8 bit</option>
              <option value={16}>16 bit</option>
              <option value={0}>none</option>
            </select>
          </label>
          <label className="flex items-center gap-1.5" title="Every light on its own: can be balanced later without rendering again">
            <input type="checkbox" className="checkbox checkbox-xs" checked={exr} onChange={(e) => setExr(e.target.checked)} />
            EXR with every light
          </label>
        </div>
        {exr && (
          <fieldset className="relative flex flex-wrap items-center gap-x-3 border-b hairline py-1 pl-30">
            <legend className="sr-only">Passes</legend>
            <span className="quiet absolute top-2 left-0">passes</span>
            {PASSES.map((pass) => (
              <label key={pass} className="flex h-6 items-center gap-1">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={passes.includes(pass)}
                  onChange={(e) => setPasses(e.target.checked ? [...passes, pass] : passes.filter((p) => p !== pass))}
                />
                {pass}
              </label>
            ))}
          </fieldset>
        )}
        <label className={FIELD}>
          <span className="quiet w-28">names</span>
          <input
            className={`min-w-0 flex-1 rounded-sm bg-transparent px-1 hover:bg-base-300 focus:bg-base-300 ${problem ? 'text-error' : ''}`}
            value={template}
            aria-invalid={problem !== undefined}
            aria-describedby="name-example"
            title={`Words that it may hold: ${Object.keys(NAME_WORDS)
              .map((w) => `{${w}}`)
              .join(' ')}`}
            onChange={(e) => setTemplate(e.target.value)}
          />
        </label>
        <p id="name-example" className={`mb-1 pl-30 text-2xs ${problem ? 'text-error' : 'quiet'}`} data-testid="name-example">
          {problem ?? `${nameBy(template, { ...NAME_WORDS, job: name })}.${png ? 'png' : 'exr'}`}
        </p>
        <label className="flex h-7 items-center gap-2">
          <span className="quiet w-28">urgent</span>
          <input type="checkbox" className="checkbox checkbox-xs" checked={urgent} onChange={(e) => setUrgent(e.target.checked)} />
          before what waits
        </label>
        <p className="quiet mt-1" role="status" data-testid="estimate">
          {frames} frame{frames === 1 ? '' : 's'}. {estimate}
        </p>
        <div className="mt-3 flex justify-end gap-2">
          <button type="button" className="btn btn-sm" onClick={leave}>
            Leave it
          </button>
          <button className="btn btn-primary btn-sm" disabled={sending || nothing || problem !== undefined || !name.trim() || frames === 0}>
            {nothing ? 'Choose a file' : 'Send'}
          </button>
        </div>
      </form>
    </dialog>
  );
}
