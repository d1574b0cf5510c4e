// A shot brought to what the one before it shows: in the picture first, one step of undo, to be kept or left.
import { isEmptyPatch, matchTo, type KeptReading } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { useGestures } from '../../parts/gestures.ts';
import { useStage } from '../context.ts';
import { faceRead, readingForProof } from '../reading/face-read.ts';
import { leavePreview } from '../reading/placing.ts';

/** Longest wait until the face has been looked at again, ms. */
const LOOKED_MS = 90_000;
/** How often the brightness is found anew: what the fill adds changes it. */
const ROUNDS = 2;

/** @returns a function of the neighbour's code and reading, and whether one is being matched */
export function useMatching(): { match(code: string, there: KeptReading): void; busy: boolean } {
  const stage = useStage();
  const newGesture = useGestures();
  const [busy, setBusy] = useState(false);
  const run = async (code: string, there: KeptReading): Promise<void> => {
    leavePreview(stage);
    const { doc, view, engine } = stage;
    const gesture = newGesture();
    let said = '',
      changed = false;
    const stands = () => !changed || (view.getState().preview?.gesture === gesture && doc.getState().undoSteps.at(-1)?.gesture === gesture);
    for (let round = 0; round < ROUNDS; round++) {
      const here = await readingForProof(stage);
      if (!here) throw new Error('the face was not read in time');
      if (!stands()) return;
      const { reading } = view.getState();
      const { patch, ratio, left } = matchTo(doc.getState().setup, reading?.reading?.key?.id, here, there);
      // where the key comes from is found once: after that only its shadow on the nose would be chased
      const step = round === 0 ? patch : { ...(patch['camera'] === undefined ? {} : { camera: patch['camera'] }) };
      said = `As in ${code}.${left.length ? ` Left: ${left.join('; ')}.` : ''}`;
      const seen = engine.wish;
      if (!isEmptyPatch(step)) {
        doc.getState().change(step, gesture);
        changed = true;
        view.setState({ preview: { gesture, text: `${said} The face is being looked at …`, reached: left.length === 0 } });
        await faceRead(stage, { after: seen, patience: LOOKED_MS, waits: stands });
        if (!stands()) return;
      }
      if (ratio && round === 0) {
        const before = engine.wish;
        const placed = await engine.place(ratio.light, { kind: 'ratio', value: ratio.value });
        if (!stands()) return;
        if (!isEmptyPatch(placed.patch)) {
          doc.getState().change(placed.patch, gesture);
          changed = true;
          said = `${said} ${placed.text}`;
          view.setState({
            preview: { gesture, text: `${said} The face is being looked at …`, reached: left.length === 0 && placed.reached },
          });
          await faceRead(stage, { after: before, patience: LOOKED_MS, waits: stands });
          if (!stands()) return;
        }
      }
    }
    if (changed) view.setState((v) => ({ preview: { gesture, reached: true, ...v.preview, text: said } }));
    else toast(`The shot is as ${code} already.`);
  };
  const match = (code: string, there: KeptReading) => {
    setBusy(true);
    run(code, there)
      .catch((error: Error) => toast.error(`The shot was not matched to ${code}: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return { match, busy };
}
