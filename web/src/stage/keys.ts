import { useEffect } from 'react';
import type { Stage } from './context.ts';
import {
  orderOf,
  isPlaced,
  type Light,
  type Patch,
  aimsOf,
  copyPatch,
  lightPatch,
  mirrorPatch,
  placePatch,
  removeLightsPatch,
  sizeChange,
  skyPatch,
  stopsPatch,
  walkChange,
} from '@plinket/core';
import { inHand, openOrShut } from './context.ts';
import { soloed } from './Shares.tsx';
import { letters } from '../parts/letters.ts';
import { leavePreview } from './reading/placing.ts';

/** The complete sheet of keys; the help shows exactly this. */
export const KEYS: [string, string][] = [
  ['← → ↑ ↓', 'walk the selected light round the head by 1° (Shift: 5°)'],
  ['+  −', 'level by a third of a stop (Shift: one stop)'],
  ['[  ]', 'smaller, larger'],
  [',  .', 'nearer, further'],
  ['1 … 9', 'select a light'],
  ['0', 'select none'],
  ['Enter', 'solo (Shift: several)'],
  ['Backspace', 'off and on'],
  ['Delete', 'remove the lights in hand'],
  ['X', 'held: the lights in hand three stops up, to see what they do'],
  ['L', 'look along the light and drag to move it, the picture beside it'],
  ['H', 'aim it at the head'],
  ['M', 'mirror it to the other side of the face'],
  ['D', 'duplicate it'],
  ['A', 'add a light'],
  ['I', 'ask the picture: click a point to see what each light does there'],
  ['T', 'table of what every light reaches'],
  ['K', 'kits: parts of setups kept to go under other characters'],
  ['right click', 'on the picture: by which lights the thing there is lit and shadowed, each a switch'],
  ['V', 'set view: everything as objects, to walk round and drag'],
  ['P', 'keep a proof'],
  ['Space', 'held: see the last proof'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['Ctrl K', 'commands'],
  ['?', 'this sheet'],
  ['Esc', 'close, look through the camera again'],
];

/** Inputs that take no letters: keys of the Stage work while they have the focus. */
const LETTERLESS = new Set(['checkbox', 'radio', 'color', 'file', 'button', 'range']);

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  ((/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) && !LETTERLESS.has((target as HTMLInputElement).type)) || target.isContentEditable);

/** A change made of every light in hand, each by itself. */
function eachLight(stage: Stage, make: (id: string, light: Light) => Patch | undefined): Patch | undefined {
  const { setup } = stage.doc.getState();
  const items: Patch = {};
  for (const id of inHand(stage.view.getState())) {
    const light = setup.lights.items[id];
    const patch = light && make(id, light);
    if (patch) Object.assign(items, (patch['lights'] as { items: Patch }).items);
  }
  return Object.keys(items).length ? { lights: { items } } : undefined;
}

const WALKS: Record<string, [number, number]> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

/** What a key does to the lights in hand; answers whether it did anything. */
function lightKey(stage: Stage, e: KeyboardEvent): boolean {
  const { doc, view, select } = stage;
  const { setup, change } = doc.getState();
  const ids = inHand(view.getState());
  const [id] = ids;
  const light = id === undefined ? undefined : setup.lights.items[id];
  if (!light || id === undefined) return false;
  const by = e.shiftKey ? 5 : 1;
  // all keys that change a level are one gesture, up and down
  const kind = /^[-+=*_]$/.test(e.key) ? 'level' : `key-${e.key}`;
  const gesture = stage.episodes.name(`${kind}-${ids.join()}`, performance.now(), e.repeat);
  const all = (make: (id: string, light: Light) => Patch | undefined, g: string | undefined = gesture): boolean => {
    const patch = eachLight(stage, make);
    if (patch) change(patch, g);
    return true;
  };
  /** Moves leave locked lights where they are. */
  const moved = (make: (light: Light) => Patch | undefined): boolean =>
    all((i, l) => {
      const c = l.locked ? undefined : make(l);
      return c && (l.kind === 'sun' || l.kind === 'sky' ? skyPatch(setup, i, c) : lightPatch(i, c));
    });
  const walk = WALKS[e.key];
  // the arrows follow the picture: → moves the light towards the picture's right, which is the subject's left
  if (walk) return moved((l) => walkChange(l, walk[0] * by, walk[1] * by));
  switch (e.key) {
    case '+':
    case '=':
    case '*':
      return all((i, l) => stopsPatch(i, l, e.shiftKey ? 1 : 1 / 3));
    case '-':
    case '_':
      return all((i, l) => stopsPatch(i, l, e.shiftKey ? -1 : -1 / 3));
    case 'Enter':
      view.setState((v) => ({ solo: ids.length > 1 ? (ids.every((i) => v.solo.includes(i)) ? [] : ids) : soloed(v.solo, id, e.shiftKey) }));
      return true;
    case 'Backspace':
      return all((i) => lightPatch(i, { on: !light.on }), undefined);
    case 'Delete':
      change(removeLightsPatch(setup, ids));
      select(undefined);
      return true;
    case 'x':
    case 'X':
      view.setState({ exaggerated: true });
      return true;
    case '[':
      return moved((l) => sizeChange(l, 1 / 1.1));
    case ']':
      return moved((l) => sizeChange(l, 1.1));
    case 'd':
    case 'D': {
      const made = copyPatch(setup, id, 'copy', letters());
      change(made.patch);
      select(made.id);
      return true;
    }
  }
  if (!isPlaced(light)) return false;
  switch (e.key) {
    case ',':
      return all((i, l) => (isPlaced(l) && !l.locked ? placePatch(i, { distance: l.place.distance / 1.05 }) : undefined));
    case '.':
      return all((i, l) => (isPlaced(l) && !l.locked ? placePatch(i, { distance: l.place.distance * 1.05 }) : undefined));
    case 'h':
    case 'H':
      return all((i, l) => (isPlaced(l) ? placePatch(i, { aim: aimsOf(setup, l)[1]![1] }) : undefined), undefined);
    case 'm':
    case 'M':
      return all((i, l) => (isPlaced(l) && !l.locked ? mirrorPatch(i, l) : undefined), undefined);
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
    const id = orderOf(doc.getState().setup.lights)[Number(e.key) - 1];
    if (id) stage.select(id);
    return true;
  }
  switch (e.key) {
    case '0':
      stage.select(undefined);
      return true;
    case '?':
      view.setState({ help: true });
      return true;
    case 'a':
    case 'A':
      view.setState({ shelf: true });
      return true;
    case 'v':
    case 'V':
      view.setState((v) => ({ set: !v.set }));
      return true;
    case 't':
    case 'T':
      view.setState(openOrShut('reach'));
      return true;
    case 'k':
    case 'K':
      view.setState(openOrShut('kits'));
      return true;
    case 'i':
    case 'I':
      view.setState((v) => ({ picking: v.picking === 'ask' ? undefined : 'ask', asked: undefined }));
      return true;
    case 'p':
    case 'P':
      stage.keepProof();
      return true;
    case ' ':
      view.setState({ showProof: true });
      return true;
    case 'Escape':
      leavePreview(stage);
      view.setState({
        along: undefined,
        help: false,
        commands: false,
        shelf: false,
        panel: undefined,
        picking: undefined,
        spots: [],
        asked: undefined,
        met: undefined,
      });
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
      // buttons and boxes keep Enter and Space for themselves
      if ((e.target instanceof HTMLButtonElement || e.target instanceof HTMLInputElement) && (e.key === 'Enter' || e.key === ' ')) return;
      const before = stage.view.getState().selected;
      if (!stageKey(stage, e)) return;
      e.preventDefault();
      // a mark that was clicked holds the focus, and Enter with it; once the hand has another light, Enter is about that one
      if (stage.view.getState().selected !== before && document.activeElement instanceof SVGElement) document.activeElement.blur();
    };
    const up = (e: KeyboardEvent) => {
      if (e.key === ' ') stage.view.setState({ showProof: false });
      if (e.key.toLowerCase() === 'x') stage.view.setState({ exaggerated: false });
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, [stage]);
}
