// One job: how far it is, its frames as pictures, and what can be done with it.
import type { Job, JobChange } from '@plinket/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Ban, Download, Film, Grid3x3, Pause, Play, RotateCcw, SlidersHorizontal, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { labApi } from '../api/lab.ts';
import { Empty } from '../parts/Empty.tsx';
import { save } from '../parts/save.ts';
import { FrameGrid } from './FrameGrid.tsx';
import { FrameLeaf } from './FrameLeaf.tsx';
import { useFrames, useJob } from './useLab.ts';
import { jobTitle, jobWords } from './words.ts';

const SOURCES: Record<Job['source']['kind'], string> = {
  setups: 'stills',
  kits: 'under kits',
  turn: 'turntable',
  sequence: 'sequence',
  balance: 'balanced anew',
};

function Tools({ job, gone }: { job: Job; gone(): void }) {
  const queries = useQueryClient();
  const frames = useFrames(job.id);
  const folder = useQuery({ queryKey: ['lab', 'folder'], queryFn: labApi.folder, staleTime: Infinity });
  const [busy, setBusy] = useState(false);
  const going = job.state === 'running' || job.state === 'waiting';
  const did = (work: Promise<unknown>, what: string): Promise<void> =>
    work
      .then(() => queries.invalidateQueries({ queryKey: ['lab'] }))
      .catch((error: Error) => void toast.error(`${what}: ${error.message}`));
  const change = (to: JobChange) => did(labApi.change(job.id, to), 'The job was not changed');
  const known = frames.data?.frames ?? [];
  const done = known.filter((f) => f.state === 'done' && f.files.some((file) => file.name.endsWith('.png')));
  const pictured = known.filter((f) => f.state === 'done' && f.picture);
  const make = (what: Promise<Blob>, name: string, failed: string): void => {
    setBusy(true);
    what
      .then((file) => save(file, name))
      .catch((error: Error) => toast.error(`${failed}: ${error.message}`))
      .finally(() => setBusy(false));
  };
  const movie = () =>
    make(
      import('./movie.ts').then(({ movieOf }) => movieOf(done)),
      `${jobTitle(job)}.webm`,
      'No movie was made',
    );
  const sheet = () =>
    make(
      import('./sheet.ts').then(({ jobSheet }) => jobSheet(jobTitle(job), pictured)),
      `${jobTitle(job)}.pdf`,
      'No sheet was drawn',
    );
  return (
    <div className="flex flex-wrap items-center gap-2">
      {going && (
        <button className="btn btn-sm" title="What runs is finished; nothing new begins" onClick={() => void change({ state: 'paused' })}>
          <Pause size={14} /> Pause
        </button>
      )}
      {job.state === 'paused' && (
        <button className="btn btn-primary btn-sm" onClick={() => void change({ state: 'going' })}>
          <Play size={14} /> Go on
        </button>
      )}
      {(going || job.state === 'paused') && (
        <button className="btn btn-sm" title="What is done stays" onClick={() => void change({ state: 'cancelled' })}>
          <Ban size={14} /> Cancel
        </button>
      )}
      {job.frames.dead > 0 && (
        <button className="btn btn-sm" onClick={() => void did(labApi.again(job.id), 'The frames were not tried again')}>
          <RotateCcw size={14} /> Try the {job.frames.dead} dead again
        </button>
      )}
      <span className="flex-1" />
      {known.some((f) => f.films) && (
        <Link
          className="btn btn-primary btn-sm"
          to={`/lab/${job.id}/balance`}
          title="Levels, colours and look of the finished pictures: no ray is traced"
        >
          <SlidersHorizontal size={14} /> Balance
        </Link>
      )}
      {done.length > 1 && (
        <button className="btn btn-sm" disabled={busy} title="The finished frames in their order, 24 a second, as WebM" onClick={movie}>
          <Film size={14} /> {busy ? 'Joining …' : 'Movie'}
        </button>
      )}
      {pictured.length > 1 && (
        <button className="btn btn-sm" disabled={busy} title="The finished frames side by side, as PDF" onClick={sheet}>
          <Grid3x3 size={14} /> Contact sheet
        </button>
      )}
      {job.frames.done > 0 && (
        <a
          className="btn btn-sm"
          href={labApi.filesUrl(job.id)}
          download
          title={`All finished files with their checksums (SHA-256) as a ZIP${folder.data ? `; they lie in ${folder.data} of the server` : ''}`}
        >
          <Download size={14} /> Files
        </a>
      )}
      {!going && job.state !== 'paused' && (
        <button
          className="btn btn-ghost btn-sm btn-square"
          aria-label="Take the job off the list"
          title="Take the job off the list; its files stay on the disk"
          onClick={() => void did(labApi.remove(job.id).then(gone), 'The job stays')}
        >
          <Trash2 size={14} />
        </button>
      )}
    </div>
  );
}

export function JobSheet({ id, gone }: { id: string; gone(): void }) {
  const job = useJob(id),
    frames = useFrames(id);
  const [chosen, setChosen] = useState<number>();
  if (!job.data)
    return (
      <div className="min-w-0 flex-1">
        <Empty title={job.isError ? 'This job is not here' : 'Opening the job …'}>{job.isError && job.error.message}</Empty>
      </div>
    );
  const { quality, outputs, source, template } = job.data;
  const known = frames.data?.frames ?? [];
  const frame = known.find((f) => f.n === chosen);
  return (
    <section className="flex min-w-0 flex-1 flex-col" aria-label={jobTitle(job.data)}>
      <header className="border-b hairline px-6 py-3">
        <div className="mb-2 flex items-baseline gap-3">
          <h2 className="truncate text-lg font-semibold">{jobTitle(job.data)}</h2>
          <span
            className={job.data.state === 'unfinished' ? 'text-warning' : 'quiet'}
            role="status"
            data-testid="job-state"
            data-state={job.data.state}
          >
            {jobWords(job.data)}
          </span>
        </div>
        <p className="quiet mb-3 text-2xs">
          {[
            SOURCES[source.kind],
            `${quality.side} pixels`,
            ...(source.kind === 'balance' ? [] : [`${quality.samples} samples`]),
            ...(outputs.png ? [`PNG ${outputs.png} bit`] : []),
            ...(outputs.exr ? [['EXR with lights', ...outputs.passes].join(', ')] : []),
            template,
          ].join(' · ')}
        </p>
        <Tools job={job.data} gone={gone} />
      </header>
      <div className="flex min-h-0 flex-1">
        <FrameGrid frames={known} chosen={chosen} choose={setChosen} />
        {frame && <FrameLeaf frame={frame} shut={() => setChosen(undefined)} />}
      </div>
    </section>
  );
}
