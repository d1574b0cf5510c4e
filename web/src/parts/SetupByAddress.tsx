import type { SetupRecord } from '@plinket/contract';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { api, ApiProblem } from '../api/client.ts';
import { Empty } from './Empty.tsx';

/** The setup that the address names, for a page that works on it; `what` is being opened meanwhile. */
export function SetupByAddress({ what, children }: { what: string; children: (record: SetupRecord) => ReactNode }) {
  const { id = '' } = useParams();
  // the document is opened once; from then on the page's own copy leads and the saver follows
  const record = useQuery({
    queryKey: ['setup', id],
    queryFn: () => api.setup(id),
    staleTime: Infinity,
    gcTime: 0,
    retry: (n, e) => !(e instanceof ApiProblem) && n < 30,
    retryDelay: 1500,
  });
  if (record.data) return children(record.data);
  if (record.error instanceof ApiProblem)
    return (
      <Empty
        title="This setup is not here"
        action={
          <Link className="btn btn-primary btn-sm" to="/">
            All setups
          </Link>
        }
      >
        {record.error.message}
      </Empty>
    );
  return (
    <Empty title={`Opening ${what} …`}>{record.failureCount > 0 && 'The server or its database does not answer; trying again.'}</Empty>
  );
}
