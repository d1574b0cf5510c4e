// Putting a kit on the setup that is open: shown in the picture first, and fitted to this face if that is wished.
import { KEY_PATTERNS, orderOf, putKit, type Kit, type KitPart } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { useGestures } from '../../parts/gestures.ts';
import { letters } from '../../parts/letters.ts';
import { useStage } from '../context.ts';
import { faceRead } from '../reading/face-read.ts';
import { leavePreview } from '../reading/placing.ts';

export interface Putting {
  parts: readonly KitPart[];
  how: 'replace' | 'merge';
  /** Bring back the pattern that it draws on the face that it was made for. */
  fit: boolean;
}

/** Longest wait until a face that comes new has been looked at, ms. */
const LOOKED_MS = 90_000;

/** The pattern that fitting a kit brings back; nothing where it has none that one light draws. */
export const fitOf = ({ shows, parts }: Kit) =>
  parts.rig && shows?.key !== undefined ? KEY_PATTERNS.find((p) => p === shows.pattern) : undefined;

/** Shows a kit on this setup, one step of undo, until it is kept or left. */
export function usePutting(): { put(kit: Kit, wish: Putting): void; busy: boolean } {
  const stage = useStage();
  const newGesture = useGestures();
  const [busy, setBusy] = useState(false);
  const show = async (kit: Kit, { parts, how, fit }: Putting): Promise<void> => {
    leavePreview(stage);
    const { doc, view, engine } = stage;
    const gesture = newGesture(),
      before = engine.wish;
    const { patch, short, key } = putKit(doc.getState().setup, kit, { parts, how, letters: letters() });
    doc.getState().change(patch, gesture);
    view.setState({ selected: key ?? orderOf(doc.getState().setup.lights)[0], also: [], solo: [] });
    const said = `${kit.name} is on this character${short.length ? `; ${short.join(', ')} met a limit` : ''}.`,
      whole = short.length === 0;
    view.setState({ preview: { gesture, text: said, reached: whole } });
    const stands = () => view.getState().preview?.gesture === gesture && doc.getState().undoSteps.at(-1)?.gesture === gesture;
    const pattern = fitOf(kit);
    if (!fit || key === undefined || !pattern) return;
    view.setState({ preview: { gesture, text: `${said} The face is being looked at …`, reached: whole } });
    await faceRead(stage, { after: before, patience: LOOKED_MS, waits: stands });
    // whoever left it, or did something else meanwhile, has decided
    if (!stands()) return;
    const light = doc.getState().setup.lights.items[key]!;
    const from = 'place' in light && light.place.azimuth < 0 ? 'right' : 'left';
    const fitted = await engine.place(key, { kind: 'pattern', pattern, from }).catch((error: Error) => {
      if (stands()) view.setState({ preview: { gesture, text: said, reached: whole } });
      throw error;
    });
    if (!stands()) return;
    doc.getState().change(fitted.patch, gesture);
    view.setState({ preview: { gesture, text: `${said} ${fitted.text}`, reached: whole && fitted.reached } });
  };
  const put = (kit: Kit, wish: Putting) => {
    setBusy(true);
    show(kit, wish)
      .catch((error: Error) => toast.error(`${kit.name} was not fitted: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return { put, busy };
}
