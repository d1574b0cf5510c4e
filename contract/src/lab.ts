// What is said about the Lab: jobs and their frames, render nodes, and what nodes say to the server.
import { balanceSchema, FRAME_CHOICES, MOST_TEMPLATE, NAME_TEMPLATE, PASSES, turntableSchema } from '@plinket/core';
import { z } from 'zod';
import { idSchema, sha256Schema } from './schemas.ts';

const iso = z.iso.datetime();

/**
 * What a node and a server must agree on: it grows with whatever changes a frame's pixels or what they say to each other. A node of another version is
 * refused.
 */
export const LAB_VERSION = '1';
/** A node that has said nothing for so long has lost its frame, and how often it says that it is there, ms. */
export const LEASE_MS = 60_000,
  HEARTBEAT_MS = 5000;
/** Most frames of one job, and most setups or shots that one names. */
export const MOST_FRAMES = 20_000,
  MOST_NAMED = 200;
/** Largest file that a node sends. */
export const MAX_RESULT_BYTES = 4 * 1024 ** 3;

const jobName = z.string().trim().min(1).max(120);
const ids = z.array(idSchema).min(1).max(MOST_NAMED);

/** What is rendered: setups, characters as setups have them under kits, a turntable, shots of a sequence, or a finished job balanced anew (no ray is traced). */
export const jobSourceSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('setups'), setups: ids }),
  /** Each setup with each kit put on it in place of its own light. */
  z.strictObject({ kind: z.literal('kits'), setups: ids, kits: ids }),
  z.strictObject({ kind: z.literal('turn'), setup: idSchema }),
  z.strictObject({
    kind: z.literal('sequence'),
    sequence: idSchema,
    /** All of them where none is named. */
    shots: ids.optional(),
    frames: z.enum(FRAME_CHOICES).default('one'),
  }),
  z.strictObject({ kind: z.literal('balance'), job: idSchema, balance: balanceSchema }),
]);
export type JobSource = z.infer<typeof jobSourceSchema>;

export const qualitySchema = z.strictObject({
  /** The longer side, pixels. */
  side: z.number().int().min(16).max(8192),
  samples: z.number().int().min(1).max(65_535),
  bounces: z.number().int().min(0).max(16),
  seed: z.number().int().min(1).max(2_147_483_647).default(1),
});
export const outputsSchema = z
  .strictObject({
    /** Bits of the PNG; 0: none. */
    png: z.union([z.literal(0), z.literal(8), z.literal(16)]),
    /** OpenEXR with every light's layers: what can be balanced later. */
    exr: z.boolean(),
    passes: z.array(z.enum(PASSES)).max(PASSES.length).default([]),
  })
  .refine((o) => o.png !== 0 || o.exr, { path: ['png'], error: 'a PNG or an EXR must be wished' })
  .refine((o) => o.exr || o.passes.length === 0, { path: ['passes'], error: 'passes stand in an EXR, and none is wished' });
export type Outputs = z.infer<typeof outputsSchema>;

export const jobWishSchema = z.strictObject({
  name: jobName,
  source: jobSourceSchema,
  quality: qualitySchema,
  outputs: outputsSchema,
  /** What the files are called: see `NAME_WORDS`. */
  template: z.string().max(MOST_TEMPLATE).default(NAME_TEMPLATE),
  /** What is more urgent goes first. */
  priority: z.number().int().min(-9).max(9).default(0),
});
export type JobWish = z.infer<typeof jobWishSchema>;

export const JOB_STATES = ['waiting', 'running', 'paused', 'done', 'unfinished', 'cancelled'] as const;
export const FRAME_STATES = ['waiting', 'running', 'done', 'dead', 'cancelled'] as const;
const count = z.number().int().min(0);

export const jobSchema = z.object({
  id: idSchema,
  name: z.string(),
  version: z.number().int().positive(),
  source: jobSourceSchema,
  quality: qualitySchema,
  outputs: outputsSchema,
  template: z.string(),
  priority: z.number().int(),
  /** `unfinished`: nothing waits or runs, and some frames are dead. */
  state: z.enum(JOB_STATES),
  frames: z.object({ all: count, waiting: count, running: count, done: count, dead: count, cancelled: count }),
  /** Share of all work, 0…1. */
  progress: z.number().min(0).max(1),
  /** Until it is done as fast as of late, with the nodes that are there; nothing where that is not known. */
  msLeft: z.number().optional(),
  /** What its frames took, in seconds of one core. */
  coreSeconds: z.number(),
  /** The latest small picture. */
  picture: sha256Schema.optional(),
  createdAt: iso,
  finishedAt: iso.optional(),
});
export type Job = z.infer<typeof jobSchema>;
export const jobListSchema = z.object({ items: z.array(jobSchema), next: z.string().optional() });
/** What may be changed of a job. */
export const jobChangeSchema = z
  .strictObject({ state: z.enum(['going', 'paused', 'cancelled']).optional(), priority: z.number().int().min(-9).max(9).optional() })
  .refine((c) => Object.keys(c).length > 0, 'state or priority must be given');
export type JobChange = z.infer<typeof jobChangeSchema>;

export const frameFileSchema = z.object({
  /** In the folder of finished pictures. */
  name: z.string(),
  sha256: sha256Schema,
  bytes: count,
});
export const jobFrameSchema = z.object({
  n: count,
  /** Which shot, setup or figure. */
  label: z.string(),
  frame: count,
  state: z.enum(FRAME_STATES),
  progress: z.number(),
  /** Name of the node that renders it, or did. */
  node: z.string().optional(),
  seconds: z.number(),
  attempts: count,
  picture: sha256Schema.optional(),
  /** Its setup as JSON, and the EXR with its lights, where there is one: its own, or the one that it was balanced from. */
  setup: sha256Schema,
  films: sha256Schema.optional(),
  files: z.array(frameFileSchema),
  log: z.array(z.object({ at: iso, words: z.string() })),
});
export type JobFrame = z.infer<typeof jobFrameSchema>;
/** Frames that changed since `after`; `changed` is what to ask with the next time. */
export const frameListSchema = z.object({ items: z.array(jobFrameSchema), changed: z.string() });
export type FrameList = z.infer<typeof frameListSchema>;
export const frameWishSchema = z.object({
  after: z
    .string()
    .regex(/^\d{1,18}$/)
    .default('0'),
});

export const renderNodeSchema = z.object({
  id: idSchema,
  name: z.string(),
  createdAt: iso,
  /** Since when nothing of it was heard: nothing where it never was. */
  seenAt: iso.optional(),
  cores: count.optional(),
  /** It was heard of within the time of a lease. */
  here: z.boolean(),
  /** What it renders. */
  works: z.string().optional(),
  done: count,
});
export type RenderNode = z.infer<typeof renderNodeSchema>;
/** Nodes, and how fast pictures come: core seconds for a million pixels × samples × lights, where any were rendered. */
export const nodeListSchema = z.object({ items: z.array(renderNodeSchema), pace: z.number().optional() });
export type NodeList = z.infer<typeof nodeListSchema>;
export const newNodeSchema = z.strictObject({ name: z.string().trim().min(1).max(60) });
/** A node's token is said once, when it is made. */
export const madeNodeSchema = z.object({ id: idSchema, name: z.string(), token: z.string() });
export type MadeNode = z.infer<typeof madeNodeSchema>;

/** What happens in the Lab, as those who look on hear of it. */
export const labEventSchema = z.object({ job: idSchema.optional(), nodes: z.literal(true).optional() });
export type LabEvent = z.infer<typeof labEventSchema>;

export const helloSchema = z.strictObject({
  version: z.string().max(40),
  /** Of the running process: a node that was started anew gives back what it had. */
  process: idSchema,
  cores: z.number().int().min(1).max(4096),
  /** What it wants to be called from now on. */
  name: z.string().trim().min(1).max(60).optional(),
});
export type Hello = z.infer<typeof helloSchema>;
export const welcomeSchema = z.object({ id: idSchema, name: z.string(), heartbeatMs: z.number(), leaseMs: z.number() });
export type Welcome = z.infer<typeof welcomeSchema>;

/** A frame as a node is given it. */
export const taskSchema = z.object({
  lease: idSchema,
  job: z.string(),
  label: z.string(),
  frame: count,
  /** SHA-256 of the setup's JSON; the files that it names are fetched by theirs. */
  setup: sha256Schema,
  quality: qualitySchema,
  outputs: outputsSchema,
  /** So many seconds later than the setup says. */
  later: z.number().optional(),
  /** A frame of the setup's turntable. */
  turn: turntableSchema.optional(),
  /** SHA-256 of a finished picture's EXR: it is balanced as the setup says, and nothing is traced. */
  films: sha256Schema.optional(),
});
export type Task = z.infer<typeof taskSchema>;

const seconds = z.number().min(0).max(1e9);
const words = z.string().max(2000);
export const heartbeatSchema = z.strictObject({ progress: z.number().min(0).max(1), words: z.array(words).max(50).default([]) });
export type Heartbeat = z.infer<typeof heartbeatSchema>;
export const frameDoneSchema = z.strictObject({
  seconds,
  coreSeconds: seconds,
  /** By their endings. */
  files: z
    .array(z.strictObject({ ending: z.enum(['png', 'exr']), sha256: sha256Schema }))
    .min(1)
    .max(2),
  picture: sha256Schema,
  words: z.array(words).max(50).default([]),
});
export type FrameDone = z.infer<typeof frameDoneSchema>;
export const frameFailedSchema = z.strictObject({ reason: words, words: z.array(words).max(50).default([]) });
export type FrameFailed = z.infer<typeof frameFailedSchema>;
