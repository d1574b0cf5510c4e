// The Lab: jobs on the left with the nodes below them, the job in hand on the right.
import type { Job } from '@plinket/contract';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { Empty } from '../parts/Empty.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { SearchBox } from '../parts/SearchBox.tsx';
import { JobSheet } from './JobSheet.tsx';
import { Nodes } from './Nodes.tsx';
import { useJobs, useLabEvents } from './useLab.ts';
import { jobTitle, jobWords } from './words.ts';

function JobCard({ job, open }: { job: Job; open: boolean }) {
  return (
    <li>
      <Link
        to={`/lab/${job.id}`}
        aria-current={open ? 'page' : undefined}
        data-testid="job"
        data-state={job.state}
        className={`flex gap-3 border-b hairline px-4 py-2 hover:bg-base-300 ${open ? 'bg-base-300' : ''}`}
      >
        <span className="grid h-12 w-20 shrink-0 place-items-center overflow-hidden rounded-sm bg-neutral">
          {job.picture && <img src={`/api/blobs/${job.picture}`} alt="" className="h-full w-full object-contain" />}
        </span>
        <span className="min-w-0 flex-1">
          <b className="block truncate">{jobTitle(job)}</b>
          <span className={`block truncate text-2xs ${job.state === 'unfinished' ? 'text-warning' : 'quiet'}`}>{jobWords(job)}</span>
          <span className="mt-1.5 block h-0.5 bg-base-300">
            <span className="block h-full bg-base-content" style={{ width: `${job.progress * 100}%` }} />
          </span>
        </span>
      </Link>
    </li>
  );
}

export function LabPage() {
  useLabEvents();
  const { id } = useParams();
  const navigate = useNavigate();
  const [search, setSearch] = useState('');
  const jobs = useJobs(search.trim());
  const items = jobs.data?.items ?? [];
  const shown = id ?? items[0]?.id;
  return (
    <div className="flex h-full flex-col">
      <PageHeader title="Lab">
        <Link className="btn btn-ghost btn-sm" to="/lab/balance" title="Balance an EXR of the Lab that lies on a disk">
          Open an EXR
        </Link>
        <SearchBox value={search} onChange={setSearch} name="Find jobs by name" placeholder="name of a job" className="input-sm w-56" />
      </PageHeader>
      <main className="flex min-h-0 flex-1">
        <aside className="flex w-80 shrink-0 flex-col border-r hairline">
          <ul className="min-h-0 flex-1 overflow-y-auto" aria-label="Jobs" tabIndex={0}>
            {items.map((job) => (
              <JobCard key={job.id} job={job} open={job.id === shown} />
            ))}
            {jobs.isSuccess && items.length === 0 && (
              <li className="quiet px-4 py-3">{search ? 'No job is called like that.' : 'Nothing was sent yet.'}</li>
            )}
          </ul>
          <Nodes />
        </aside>
        {shown ? (
          <JobSheet key={shown} id={shown} gone={() => navigate('/lab')} />
        ) : (
          <div className="min-w-0 flex-1">
            <Empty
              title={jobs.isError ? 'The Lab does not answer' : jobs.isPending ? 'Opening the Lab …' : 'The Lab is free'}
              action={
                jobs.isSuccess && (
                  <Link className="btn btn-primary btn-sm" to="/">
                    To the call sheet
                  </Link>
                )
              }
            >
              {jobs.isError
                ? jobs.error.message
                : 'Send a setup from its Stage, a turntable, or a whole sequence from its board: “Send to the Lab”. What comes of it lies here, and can be balanced without rendering again.'}
            </Empty>
          </div>
        )}
      </main>
    </div>
  );
}
