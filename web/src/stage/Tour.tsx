import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { browserStorage } from '../parts/storage.ts';
import { useStage, useView } from './context.ts';

interface Stop {
  /** What is shown, as CSS finds it. */
  at: string;
  title: string;
  words: string;
}

export const STOPS: Stop[] = [
  {
    at: 'section[aria-label="Picture"]',
    title: 'The picture is traced light',
    words:
      'It comes at once and grows calm. Drag it to walk the camera round, with Shift aside; the wheel goes nearer. The list on its left shows one share, stops in false tones, clay.',
  },
  {
    at: 'section[aria-label="Shares"]',
    title: 'Every light keeps its own share',
    words:
      'Each card is a light with a picture of what it alone does. Its level, its ear (hear it alone) and its eye (off) cost no waiting. Add light opens the shelf.',
  },
  {
    at: '[data-testid="column"] > div:first-child',
    title: 'PLAN and SIDE, measured from the head',
    words:
      'Drag a light round, out or up; the picture follows. The wheel zooms; Escape during a drag takes it back. Arrow keys walk the light in hand by a degree.',
  },
  {
    at: 'section[aria-label="Sheet"]',
    title: 'The sheet of what is in hand',
    words:
      'Numbers are typed with units (40cm, +1/3), dragged by their label, stepped by arrows. Several lights in hand go along with the first; “=” sets all alike.',
  },
  {
    at: 'section[aria-label="Tones in stops around middle grey"]',
    title: 'Tones in stops',
    words: 'How the picture lies around middle grey, and what is clipped or lost in black.',
  },
  {
    at: '[data-testid="keep-proof"]',
    title: 'Keep a proof',
    words:
      'A proof is the picture with its whole setup: hold Space to see the last one, restore any. Everything is saved by itself; Ctrl Z has no end. “?” shows all keys, and this tour again.',
  },
];

const KEY = 'plinket-tour';

/** Whether this browser has been asked before; a storage that says nothing has. */
function wasAsked(): boolean {
  try {
    return browserStorage.getItem(KEY) !== null;
  } catch {
    return true;
  }
}
function remember(): void {
  try {
    browserStorage.setItem(KEY, 'asked');
  } catch {
    return;
  }
}

interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Where the card stands: beside what it shows, on the side that has room, within the window. */
export function cardPlace(
  target: Box,
  card: { width: number; height: number },
  view: { width: number; height: number },
): { left: number; top: number } {
  const gap = 14;
  const within = (v: number, size: number, most: number) => Math.min(Math.max(gap, v), Math.max(gap, most - size - gap));
  const right = view.width - target.left - target.width;
  if (right >= card.width + 2 * gap) return { left: target.left + target.width + gap, top: within(target.top, card.height, view.height) };
  if (target.left >= card.width + 2 * gap)
    return { left: target.left - card.width - gap, top: within(target.top, card.height, view.height) };
  const left = within(target.left + (target.width - card.width) / 2, card.width, view.width);
  if (target.top >= card.height + 2 * gap) return { left, top: target.top - card.height - gap };
  return { left, top: within(target.top + target.height + gap, card.height, view.height) };
}

/** Six stops round the Stage; it can be left at any of them. */
export function Tour() {
  const { view } = useStage();
  const stop = useView((v) => v.tour);
  const [asked, setAsked] = useState(wasAsked);
  const [box, setBox] = useState<Box>();
  const card = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState({ left: 0, top: 0 });
  const leave = () => view.setState({ tour: undefined });
  const settle = () => {
    remember();
    setAsked(true);
  };
  const go = (to: number) => (to < 0 ? undefined : to >= STOPS.length ? leave() : view.setState({ tour: to }));

  useEffect(() => {
    if (stop === undefined) return;
    settle();
    const keys = (e: KeyboardEvent) => {
      if (e.key === 'Escape') leave();
      else if (e.key === 'ArrowRight') go(stop + 1);
      else if (e.key === 'ArrowLeft') go(stop - 1);
      else return;
      e.preventDefault();
      e.stopImmediatePropagation();
    };
    const measure = () => {
      const r = document.querySelector(STOPS[stop]!.at)?.getBoundingClientRect();
      setBox(r && { left: r.left, top: r.top, width: r.width, height: r.height });
    };
    measure();
    window.addEventListener('keydown', keys, true);
    window.addEventListener('resize', measure);
    return () => {
      window.removeEventListener('keydown', keys, true);
      window.removeEventListener('resize', measure);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what it calls changes nothing but the view
  }, [stop]);
  useLayoutEffect(() => {
    if (!box || !card.current) return;
    setPlace(cardPlace(box, card.current.getBoundingClientRect(), { width: window.innerWidth, height: window.innerHeight }));
  }, [box]);

  if (stop === undefined)
    return asked ? null : (
      <aside
        className="absolute bottom-48 left-4 z-30 w-64 rounded border hairline bg-base-100 p-3 shadow-lg"
        aria-label="Tour"
        data-testid="tour-offer"
      >
        <p className="font-semibold">First time on the Stage?</p>
        <p className="quiet">Six stops, a minute.</p>
        <div className="mt-2 flex gap-2">
          <button className="btn btn-primary btn-xs" onClick={() => go(0)}>
            Show me round
          </button>
          <button className="btn btn-xs" onClick={settle}>
            Not now
          </button>
        </div>
      </aside>
    );
  const { title, words } = STOPS[stop]!;
  return (
    <>
      {box && (
        <div
          className="pointer-events-none fixed z-40 rounded outline-2 outline-white"
          style={{ ...box, boxShadow: '0 0 0 200vmax rgb(0 0 0 / 0.6)' }}
          aria-hidden
        />
      )}
      <div
        ref={card}
        role="dialog"
        aria-label={title}
        className="fixed z-50 w-72 rounded border hairline bg-base-100 p-4"
        style={place}
        data-testid="tour"
      >
        <p className="caps quiet">
          {stop + 1} of {STOPS.length}
        </p>
        <h2 className="mt-1 text-base font-semibold">{title}</h2>
        <p className="mt-1">{words}</p>
        <div className="mt-3 flex items-center gap-2">
          <button className="btn btn-primary btn-xs" autoFocus onClick={() => go(stop + 1)}>
            {stop + 1 < STOPS.length ? 'Next' : 'Done'}
          </button>
          {stop > 0 && (
            <button className="btn btn-xs" onClick={() => go(stop - 1)}>
              Back
            </button>
          )}
          <button className="quiet ml-auto text-2xs hover:text-base-content" onClick={leave}>
            leave
          </button>
        </div>
      </div>
    </>
  );
}
