// Putting a kit on the setup that is open: shown in the picture first, and fitted to this face if that is wished.
import type { KitRecord } from '@plinket/contract';
import { diff, fitWishes, isEmptyPatch, orderOf, partsOf, putKit, type KitPart } from '@plinket/core';
import { useEffect, useRef, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { useGestures } from '../../parts/gestures.ts';
import { letters } from '../../parts/letters.ts';
import { useStage, type Sides } from '../context.ts';
import { faceRead } from '../reading/face-read.ts';
import { leavePreview } from '../reading/placing.ts';

export interface Putting {
  parts: readonly KitPart[];
  how: 'replace' | 'merge';
  /** Bring back the pattern and the ratio that it draws on the face that it was made for. */
  fit: boolean;
  /** What changes in the kit later is offered here. */
  tied: boolean;
}

/** Longest wait until a face that comes new has been looked at, ms. */
const LOOKED_MS = 90_000;

/** Why there is no face to fit a kit to. */
const NO_FACE: { [why: string]: string | undefined } = {
  nobody: 'no figure is in sight whose face could show it',
  landmarks: 'landmarks of its face are missing; mark them (Character)',
};

/** Shows a kit on this setup, one step of undo, until it is kept or left. */
export function usePutting(): { put(kit: KitRecord, wish: Putting): void; busy: boolean } {
  const stage = useStage();
  const newGesture = useGestures();
  const [busy, setBusy] = useState(false);
  const show = async ({ id, revision, document: kit }: KitRecord, { parts, how, fit, tied }: Putting): Promise<void> => {
    leavePreview(stage);
    const { doc, view, engine } = stage;
    const gesture = newGesture(),
      before = engine.wish;
    const { patch, short, key, ids } = putKit(doc.getState().setup, kit, {
      parts,
      how,
      letters: letters(),
      tie: { kit: id, revision, offers: tied },
    });
    doc.getState().change(patch, gesture);
    view.setState({ selected: key ?? orderOf(doc.getState().setup.lights)[0], also: [], solo: [] });
    const said = `${kit.name} is on this character${short.length ? `; ${short.join(', ')} met a limit` : ''}.`,
      whole = short.length === 0;
    view.setState({ preview: { gesture, text: said, reached: whole } });
    const stands = () => view.getState().preview?.gesture === gesture && doc.getState().undoSteps.at(-1)?.gesture === gesture;
    if (!fit) return;
    let text = said,
      reached = whole,
      seen = before;
    const tell = (more = '', sides?: Sides) => view.setState({ preview: { gesture, text: `${text}${more}`, reached, sides } });
    const plain = doc.getState().setup;
    for (const { id: light, wish } of fitWishes(doc.getState().setup, kit, ids)) {
      tell(' The face is being looked at …');
      await faceRead(stage, { after: seen, patience: LOOKED_MS, waits: stands });
      // whoever left it, or did something else meanwhile, has decided
      if (!stands()) return;
      const why = view.getState().reading?.why;
      if (why && NO_FACE[why.kind]) {
        tell();
        throw new Error(NO_FACE[why.kind]);
      }
      const now = engine.wish;
      const fitted = await engine.place(light, wish).catch((error: Error) => {
        if (stands()) tell();
        throw error;
      });
      if (!stands()) return;
      // what is read anew is waited for, and only that
      if (!isEmptyPatch(fitted.patch)) seen = now;
      doc.getState().change(fitted.patch, gesture);
      text = `${text} ${fitted.text}`;
      reached = reached && fitted.reached;
      tell();
    }
    const now = doc.getState().setup;
    const sides: Sides = { words: ['As put on', 'Fitted'], at: 1, to: [diff(now, plain), diff(plain, now)] };
    if (stands() && !isEmptyPatch(sides.to[0])) tell('', sides);
  };
  const put = (kit: KitRecord, wish: Putting) => {
    setBusy(true);
    show(kit, wish)
      .catch((error: Error) => toast.error(`${kit.document.name} was not fitted: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return { put, busy };
}

/** Shows the kit that the shelf sent here: once, and not again after a reload. */
export function useSentKit(): void {
  const { view } = useStage();
  const { state } = useLocation();
  const navigate = useNavigate();
  const { put } = usePutting();
  const sent = (state as { kit?: string } | null)?.kit;
  const taken = useRef<string>(undefined);
  useEffect(() => {
    if (!sent || taken.current === sent) return;
    taken.current = sent;
    view.setState({ panel: 'kits' });
    api
      .kit(sent)
      .then((kit) => put(kit, { parts: partsOf(kit.document), how: 'replace', fit: false, tied: false }))
      .catch((error: Error) => toast.error(`The kit did not come: ${error.message}`))
      .finally(() => void navigate('.', { replace: true, state: null }));
  }, [sent, view, put, navigate]);
}
