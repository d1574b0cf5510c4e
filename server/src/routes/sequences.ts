import { addShotsSchema, alongWishSchema, createSequenceSchema, touchesSchema } from '@plinket/contract';
import type { Patch } from '@plinket/core';
import type { Router } from 'express';
import { idOf, inTime, read, route } from '../door/route.ts';
import type { SequenceService } from '../services/sequences.ts';
import { documentRoutes, tagged } from './documents.ts';

/** So long may it take to add shots, or to ask for a value of each, ms: each is a setup. */
const ADDING_MS = 30_000;

/** Sequences, their shots, and how these stand. */
export function sequenceRoutes(sequences: SequenceService): Router {
  const router = documentRoutes('/sequences', 'sequence', createSequenceSchema, sequences);
  router.post(
    '/sequences/:id/shots',
    route(async (req) => {
      const wish = read(addShotsSchema, req.body, 'The shots were not added.');
      return tagged(await inTime(sequences.addShots(idOf(req), wish), ADDING_MS), 201);
    }),
  );
  router.get(
    '/sequences/:id/board',
    route(async (req) => ({ body: await inTime(sequences.board(idOf(req))) })),
  );
  router.get(
    '/sequences/:id/along',
    route(async (req) => {
      const { path } = read(alongWishSchema, req.query, 'The value cannot be told.');
      return { body: await inTime(sequences.along(idOf(req), path), ADDING_MS) };
    }),
  );
  router.post(
    '/sequences/:id/touched',
    route(async (req) => {
      const { patch } = read(touchesSchema, req.body, 'What it touches cannot be told.');
      return { body: await inTime(sequences.touched(idOf(req), patch as Patch)) };
    }),
  );
  router.get(
    '/setups/:id/sequence',
    route(async (req) => {
      const record = await inTime(sequences.of(idOf(req)));
      return record ? tagged(record) : { status: 204 };
    }),
  );
  router.get(
    '/board',
    route(async () => ({ body: await inTime(sequences.productions()) })),
  );
  return router;
}
