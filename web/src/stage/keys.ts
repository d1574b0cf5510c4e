import { useEffect } from 'react';
import type { Stage } from './context.ts';
import { lightPatch, placePatch, sizePatch, stopsPatch } from './moves.ts';

/** The complete sheet of keys; the help shows exactly this. */
export const KEYS: [string, string][] = [
  ['← → ↑ ↓', 'walk the selected light round the head by 1° (Shift: 5°)'],
  ['+  −', 'level by a third of a stop (Shift: one stop)'],
  ['[  ]', 'smaller, larger'],
  [',  .', 'nearer, further'],
  ['1 … 9', 'select a light'],
  ['0', 'select none'],
  ['Enter', 'solo'],
  ['Backspace', 'off and on'],
  ['L', 'look along the light'],
  ['H', 'aim it at the head'],
  ['P', 'keep a proof'],
  ['Space', 'held: see the last proof'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['Ctrl K', 'commands'],
  ['?', 'this sheet'],
  ['Esc', 'close, look through the camera again'],
];

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable);

/** What a key does to the selected light; answers whether it did anything. */
function lightKey(stage: Stage, e: KeyboardEvent): boolean {
  const { doc, view } = stage;
  const id = view.getState().selected;
  const light = id === undefined ? undefined : doc.getState().setup.lights.items[id];
  if (!light || id === undefined) return false;
  const { change } = doc.getState();
  const by = e.shiftKey ? 5 : 1;
  const gesture = `key-${e.key}-${id}`;
  switch (e.key) {
    case '+':
    case '=':
    case '*':
      change(stopsPatch(id, light, e.shiftKey ? 1 : 1 / 3), `level-${id}`);
      return true;
    case '-':
    case '_':
      change(stopsPatch(id, light, e.shiftKey ? -1 : -1 / 3), `level-${id}`);
      return true;
    case 'Enter':
      view.setState((v) => ({ solo: v.solo === id ? undefined : id }));
      return true;
    case 'Backspace':
      change(lightPatch(id, { on: !light.on }));
      return true;
  }
  if (light.kind !== 'rectangle') return false;
  const { place } = light;
  switch (e.key) {
    // the arrows follow the picture: → moves the light towards the picture's right, which is the subject's left
    case 'ArrowRight':
      change(placePatch(id, { azimuth: place.azimuth + by }), gesture);
      return true;
    case 'ArrowLeft':
      change(placePatch(id, { azimuth: place.azimuth - by }), gesture);
      return true;
    case 'ArrowUp':
      change(placePatch(id, { elevation: place.elevation + by }), gesture);
      return true;
    case 'ArrowDown':
      change(placePatch(id, { elevation: place.elevation - by }), gesture);
      return true;
    case '[':
      change(sizePatch(id, light, 1 / 1.1), gesture);
      return true;
    case ']':
      change(sizePatch(id, light, 1.1), gesture);
      return true;
    case ',':
      change(placePatch(id, { distance: place.distance / 1.05 }), gesture);
      return true;
    case '.':
      change(placePatch(id, { distance: place.distance * 1.05 }), gesture);
      return true;
    case 'h':
    case 'H':
      change(placePatch(id, { aim: [0, 0, 0] }));
      return true;
    case 'l':
    case 'L':
      view.setState((v) => ({ along: v.along === id ? undefined : id }));
      return true;
  }
  return false;
}

function stageKey(stage: Stage, e: KeyboardEvent): boolean {
  const { doc, view } = stage;
  if (e.ctrlKey || e.metaKey) {
    const key = e.key.toLowerCase();
    if (key === 'z') {
      if (e.shiftKey) doc.getState().redo();
      else doc.getState().undo();
      return true;
    }
    if (key === 'k') {
      view.setState((v) => ({ commands: !v.commands }));
      return true;
    }
    return false;
  }
  if (/^[1-9]$/.test(e.key)) {
    const id = doc.getState().setup.lights.order[Number(e.key) - 1];
    if (id) view.setState({ selected: id, sheet: 'light' });
    return true;
  }
  switch (e.key) {
    case '0':
      view.setState({ selected: undefined });
      return true;
    case '?':
      view.setState({ help: true });
      return true;
    case 'p':
    case 'P':
      stage.keepProof();
      return true;
    case ' ':
      view.setState({ showProof: true });
      return true;
    case 'Escape':
      view.setState({ along: undefined, help: false, commands: false });
      return true;
  }
  return lightKey(stage, e);
}

/** Listens to the keys of the Stage while it is open. */
export function useStageKeys(stage: Stage): void {
  useEffect(() => {
    const down = (e: KeyboardEvent) => {
      const open = document.querySelector('dialog[open]') !== null;
      const command = (e.ctrlKey || e.metaKey) && ['z', 'k'].includes(e.key.toLowerCase());
      if (isTyping(e.target) && !(command && e.key.toLowerCase() === 'k')) return;
      if (open && e.key !== 'Escape') return;
      // buttons keep Enter and Space for themselves
      if (e.target instanceof HTMLButtonElement && (e.key === 'Enter' || e.key === ' ')) return;
      if (stageKey(stage, e)) e.preventDefault();
    };
    const up = (e: KeyboardEvent) => {
      if (e.key === ' ') stage.view.setState({ showProof: false });
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [stage]);
}
