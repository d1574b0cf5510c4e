import { addShotsSchema, createSequenceSchema } from '@plinket/contract';
import type { Router } from 'express';
import { idOf, inTime, read, route } from '../door/route.ts';
import type { SequenceService } from '../services/sequences.ts';
import { documentRoutes, tagged } from './documents.ts';

/** So long may it take to add shots, ms: each is a setup. */
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
    '/setups/:id/sequence',
    route(async (req) => tagged(await inTime(sequences.of(idOf(req))))),
  );
  router.get(
    '/board',
    route(async () => ({ body: await inTime(sequences.productions()) })),
  );
  return router;
}
