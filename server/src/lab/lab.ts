import type { EntityManager } from 'typeorm';
import type { Logger } from 'pino';
import type { BlobStore } from '../data/blobs.ts';
import { FinishedFolder } from './finished.ts';
import { JobService, type LabParts } from './jobs.ts';
import { LeaseService } from './leases.ts';
import { NodeService } from './nodes.ts';
import type { Documents } from './plan.ts';
import type { FrameQueue } from './queue.ts';
import { LabTold } from './told.ts';

export interface LabOptions {
  queue: FrameQueue;
  /** Folder of finished pictures. */
  folder: string;
  /** A node that is not heard of for so long has lost its frame, ms. */
  leaseMs?: number;
}

/** So often it is looked whether nodes are gone, ms, and frames that the queue has lost every so many-th time. */
const SWEEP_MS = 5000,
  MEND_EVERY = 12;

/** The Lab: its jobs, its nodes, and what nodes have in hand. */
export class Lab {
  readonly jobs: JobService;
  readonly nodes: NodeService;
  readonly leases: LeaseService;
  readonly told = new LabTold();
  readonly folder: string;
  private readonly parts: LabParts;
  private readonly log: Logger;
  private timer: NodeJS.Timeout | undefined;

  constructor(manager: EntityManager, blobs: BlobStore, documents: Documents, { queue, folder, leaseMs }: LabOptions, log: Logger) {
    const { told } = this;
    const parts: LabParts = { manager, blobs, queue, finished: new FinishedFolder(folder, blobs), told };
    this.parts = parts;
    this.folder = parts.finished.folder;
    this.jobs = new JobService(parts, documents);
    this.nodes = new NodeService(manager, told, leaseMs);
    this.leases = new LeaseService(parts, this.nodes.leaseMs);
    this.log = log;
  }

  /** Looks after leases from now on. */
  mind(everyMs = SWEEP_MS): void {
    let round = 0;
    const look = async (): Promise<void> => {
      try {
        await this.leases.sweep();
        if (round++ % MEND_EVERY === 0) await this.jobs.mend();
      } catch (error) {
        this.log.warn({ err: error as Error }, 'Looking after the Lab failed');
      }
      this.timer = setTimeout(() => void look(), everyMs);
      this.timer.unref();
    };
    void look();
  }

  async close(): Promise<void> {
    clearTimeout(this.timer);
    await this.parts.queue.close();
  }
}
