// Wishes of the light in hand: shown in the picture before they are kept.
import { orderOf, type Placed } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Wished } from '../../engine/messages.ts';
import { useGestures } from '../../parts/gestures.ts';
import { useStage, type Stage } from '../context.ts';

/** Takes back what is shown but was not kept, if nothing else was done since. */
export function leavePreview({ doc, view }: Pick<Stage, 'doc' | 'view'>): void {
  const { preview } = view.getState();
  if (!preview) return;
  doc.getState().takeBack(preview.gesture);
  view.setState({ preview: undefined });
  keepHand({ doc, view });
}

/** A hand whose light is gone takes the first. */
function keepHand({ doc, view }: Pick<Stage, 'doc' | 'view'>): void {
  const { lights } = doc.getState().setup,
    { selected } = view.getState();
  if (selected !== undefined && !lights.items[selected]) view.setState({ selected: orderOf(lights)[0], also: [] });
}

/** Shows a change as one step of undo, to be kept or left. */
export function usePreview(): (placed: Placed) => void {
  const { doc, view } = useStage();
  const newGesture = useGestures();
  return ({ patch, text, reached }) => {
    const gesture = newGesture();
    doc.getState().change(patch, gesture);
    view.setState({ preview: { gesture, text, reached } });
    keepHand({ doc, view });
  };
}

/** Asks for a wish; what it comes to is shown, one step of undo, until it is kept or left. */
export function usePlacing(): { ask(wish: Wished, light?: string): void; busy: boolean } {
  const { engine, view } = useStage();
  const show = usePreview();
  const [busy, setBusy] = useState(false);
  const ask = (wish: Wished, light = view.getState().selected ?? '') => {
    setBusy(true);
    engine
      .place(light, wish)
      .then(show)
      .catch((error: Error) => toast.error(`Nothing was placed: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return { ask, busy };
}
