// What is asked of the Lab.
import {
  frameListSchema,
  jobListSchema,
  jobSchema,
  madeNodeSchema,
  nodeListSchema,
  type FrameList,
  type Job,
  type JobChange,
  type JobWish,
  type ListWish,
  type MadeNode,
  type NodeList,
} from '@plinket/contract';
import { z } from 'zod';
import { call, JSON_TYPE, posting, query, read } from './client.ts';

export const labApi = {
  jobs: (wish: ListWish = {}): Promise<{ items: Job[]; next?: string | undefined }> => read(jobListSchema, call(`/lab/jobs${query(wish)}`)),
  job: (id: string): Promise<Job> => read(jobSchema, call(`/lab/jobs/${id}`)),
  send: (wish: JobWish): Promise<Job> => read(jobSchema, call('/lab/jobs', posting(wish))),
  change: (id: string, change: JobChange): Promise<Job> =>
    read(jobSchema, call(`/lab/jobs/${id}`, { method: 'PATCH', headers: JSON_TYPE, body: JSON.stringify(change) })),
  again: (id: string): Promise<Job> => read(jobSchema, call(`/lab/jobs/${id}/again`, { method: 'POST' })),
  remove: async (id: string): Promise<void> => void (await call(`/lab/jobs/${id}`, { method: 'DELETE' })),
  /** Frames that changed since; all of them at first. */
  frames: (id: string, after = '0'): Promise<FrameList> => read(frameListSchema, call(`/lab/jobs/${id}/frames?after=${after}`)),
  filesUrl: (id: string): string => `/api/lab/jobs/${id}/files`,
  /** Where finished pictures lie on the server's disk. */
  folder: async (): Promise<string> => (await read(z.object({ folder: z.string() }), call('/lab/folder'))).folder,
  nodes: (): Promise<NodeList> => read(nodeListSchema, call('/lab/nodes')),
  makeNode: (name: string): Promise<MadeNode> => read(madeNodeSchema, call('/lab/nodes', posting({ name }))),
  revokeNode: async (id: string): Promise<void> => void (await call(`/lab/nodes/${id}`, { method: 'DELETE' })),
};
