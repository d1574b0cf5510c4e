import { applyPatch, diff, orderOf, replacePatch, shotPatch, SHOTS, type Setup, type StandIn } from '@plinket/core';
import { useEffect, useRef } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { letters } from '../parts/letters.ts';
import type { Begin } from '../sheet/beginnings.ts';
import type { Stage } from './context.ts';

/** The shot in which somebody new is first seen. */
const FIRST_SHOT = SHOTS.find(([name]) => name === 'Medium close-up')![1];

/** Puts a stand-in on an empty stage and frames it, as one step. */
export async function putStandIn({ doc, engine }: Pick<Stage, 'doc' | 'engine'>, kind: StandIn): Promise<void> {
  const { report, glb } = await engine.standIn(kind);
  const { sha256 } = await api.addAsset(`${report.name}.glb`, glb);
  const { setup, change } = doc.getState();
  const with_: Setup = applyPatch(setup, replacePatch(setup, report, sha256, 1, letters()));
  change(diff(setup, applyPatch(with_, shotPatch(with_, FIRST_SHOT))));
}

/** What the Call sheet asked for when it made this setup: once, and not again after a reload. */
export function useBeginning(stage: Stage, bring: (files: File[]) => void): void {
  const { state } = useLocation();
  const navigate = useNavigate();
  const begin = (state as { begin?: Begin } | null)?.begin;
  const begun = useRef(false);
  useEffect(() => {
    if (!begin || begun.current) return;
    begun.current = true;
    // forgotten only when it is done: a reload on the way begins once more
    const done = () => void navigate('.', { replace: true, state: null });
    if (orderOf(stage.doc.getState().setup.subjects).length > 0) return done();
    if ('files' in begin) {
      bring(begin.files);
      done();
    } else
      void putStandIn(stage, 'bust')
        .then(done)
        .catch((error: Error) => toast.error(`The stand-in did not come: ${error.message}`));
  }, [begin, navigate, stage, bring]);
}
