// Putting a kit on the setup that is open: shown in the picture first, and fitted to this face if that is wished.
import { KEY_PATTERNS, orderOf, putKit, type Kit, type KitPart, type Patch } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import { useGestures } from '../../parts/gestures.ts';
import { letters } from '../../parts/letters.ts';
import { useStage, type Stage } from '../context.ts';
import { leavePreview } from '../reading/placing.ts';

export interface Putting {
  parts: readonly KitPart[];
  how: 'replace' | 'merge';
  /** Bring back the pattern and ratio that it has on the face that it was made for. */
  fit: boolean;
}

/** Longest wait until a face that comes new has been looked at, ms. */
const LOOKED_MS = 90_000;

/** Until the engine has read the face under what the document says now, or said why it cannot. `before`: the wish that was shown then. */
async function faceRead({ engine, view }: Pick<Stage, 'engine' | 'view'>, before: number): Promise<void> {
  const since = performance.now();
  const isRead = () => {
    const { reading } = view.getState();
    return engine.wish > before && reading !== undefined && reading.wish >= engine.wish && reading.why?.kind !== 'looking';
  };
  while (!isRead() && performance.now() - since < LOOKED_MS) await new Promise((resolve) => setTimeout(resolve, 100));
}

/** Id under which the kit's key light stands now. */
function keyOf(kit: Kit, patch: Patch, { doc }: Pick<Stage, 'doc'>): string | undefined {
  const key = kit.shows?.key,
    { items } = doc.getState().setup.lights;
  if (key !== undefined && items[key]) return key;
  const put = Object.keys((patch['lights'] as { items?: Patch } | undefined)?.items ?? {});
  return orderOf(doc.getState().setup.lights).find((id) => put.includes(id) && items[id]!.role === 'key');
}

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
    const { patch, short } = putKit(doc.getState().setup, kit, { parts, how, letters: letters() });
    doc.getState().change(patch, gesture);
    const first = orderOf(doc.getState().setup.lights)[0];
    view.setState({ selected: first, also: [], solo: [] });
    const said = `${kit.name} is on this character${short.length ? `; ${short.join(', ')} met a limit` : ''}.`,
      whole = short.length === 0;
    view.setState({ preview: { gesture, text: said, reached: whole } });
    const stands = () => view.getState().preview?.gesture === gesture && doc.getState().undoSteps.at(-1)?.gesture === gesture;
    const key = keyOf(kit, patch, stage),
      pattern = KEY_PATTERNS.find((p) => p === kit.shows?.pattern);
    if (!fit || key === undefined || !pattern) return;
    view.setState({ preview: { gesture, text: `${said} The face is being looked at …`, reached: whole } });
    await faceRead(stage, before);
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
