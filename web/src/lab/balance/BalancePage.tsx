import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { Empty } from '../../parts/Empty.tsx';
import { useFrames, useJob } from '../useLab.ts';
import { Room } from './Room.tsx';
import type { Gradable } from './useGrade.ts';

/** Finished frames of a job. */
export function BalancePage() {
  const { id = '' } = useParams();
  const job = useJob(id),
    frames = useFrames(id);
  const [at, setAt] = useState(0);
  const known = frames.data?.frames;
  const gradable = useMemo(
    () =>
      (known ?? [])
        .filter((f) => f.state === 'done' && f.films)
        .map((f): Gradable => ({ key: `${id} ${f.n}`, label: `${f.label} · ${f.frame}`, films: f.films!, setup: f.setup })),
    [known, id],
  );
  if (job.data && gradable.length) return <Room frames={gradable} job={job.data} at={Math.min(at, gradable.length - 1)} go={setAt} />;
  const failed = job.isError || frames.isError;
  return (
    <Empty
      title={failed ? 'This job is not here' : frames.isSuccess ? 'Nothing here can be balanced' : 'Opening …'}
      action={
        <Link className="btn btn-sm" to={`/lab/${id}`}>
          To the job
        </Link>
      }
    >
      {failed
        ? (job.error ?? frames.error)?.message
        : frames.isSuccess && 'A frame must be finished, with an EXR that holds every light. Send it again with “EXR with every light”.'}
    </Empty>
  );
}
