import { applyPatch, type Patch, type Setup, aimAtPatch, objectName } from '@plinket/core';
import { lazy, Suspense, useEffect, useMemo, useState, type MouseEvent } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { usePages } from '../parts/pages.ts';
import { useSize } from '../parts/size.ts';
import { browserStorage } from '../parts/storage.ts';
import { inHand, useDoc, useStage, useView, useViewOf } from './context.ts';
import { useCameraHand, useLightHand } from './hands.ts';
import type { PictureMode, ShowWish, Spot } from '../engine/messages.ts';
import { Proofs } from './Proofs.tsx';
import { InPicture } from './reading/InPicture.tsx';
import { useFacePicks } from './reading/picks.ts';
import { Preview } from './reading/Preview.tsx';
import { fullScale, keepSpeed, pixelBudget } from './speed.ts';
import { Views } from './Views.tsx';
import { Wipe } from './Wipe.tsx';

const THUMB: [number, number] = [164, 84];

/** A setup with some of its lights three stops up: to see what they do. */
function exaggerate(setup: Setup, ids: string): Setup {
  if (ids === '') return setup;
  const items: Patch = {};
  for (const id of ids.split(' ')) {
    const light = setup.lights.items[id];
    if (light) items[id] = { stops: light.stops + 3, on: true };
  }
  return applyPatch(setup, { lights: { items } });
}

const SetView = lazy(() => import('./set/SetView.tsx'));

/** The picture beside the set view: large enough to be judged, small enough not to be in its way; larger while a light is moved by it. */
const inset = (width: number, height: number, watched: boolean) => {
  const k = watched ? Math.min(0.5, 230 / width) : Math.min(0.42, 170 / width);
  return { width: width * k, height: height * k };
};

/** Where in the picture the pointer is, 0…1. */
function spotOf(e: MouseEvent): Spot {
  const box = e.currentTarget.getBoundingClientRect();
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
}

/** Lines that help to frame; never in the picture itself. */
function Guides() {
  const guides = useView((v) => v.guides);
  if (guides === 'none') return null;
  const line = (x1: number, y1: number, x2: number, y2: number) => <line key={`${x1} ${y1} ${x2} ${y2}`} {...{ x1, y1, x2, y2 }} />;
  return (
    <svg
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      className="pointer-events-none absolute inset-0 h-full w-full"
      data-testid="guides-over"
      aria-hidden
    >
      <g stroke="white" strokeOpacity={0.45} fill="none" vectorEffect="non-scaling-stroke" strokeWidth={0.2}>
        {guides === 'thirds' && [100 / 3, 200 / 3].flatMap((v) => [line(v, 0, v, 100), line(0, v, 100, v)])}
        {guides === 'centre' && [line(50, 0, 50, 100), line(0, 50, 100, 50)]}
        {guides === 'safe' && [5, 10].map((m) => <rect key={m} x={m / 2} y={m / 2} width={100 - m} height={100 - m} />)}
      </g>
    </svg>
  );
}

function useFit(aspect: number) {
  const [ref, box] = useSize<HTMLDivElement>();
  const settled = useSettled(box);
  const { width, height } = fit(box, aspect),
    film = fit(settled, aspect);
  const [budget] = useState(() => pixelBudget(browserStorage));
  const full = fullScale(film);
  // never more than the screen has: a page that is zoomed out has fewer of its pixels than of its own
  const k = Math.min(1, full, Math.sqrt(budget / Math.max(1, film.width * film.height)));
  const sized = (times: number) => ({ width: Math.floor(film.width * times), height: Math.floor(film.height * times) });
  return { ref, width, height, film: sized(k), full: sized(full) };
}

interface Size {
  width: number;
  height: number;
}

/** The largest frame of an aspect in a box. */
function fit(box: Size, aspect: number): Size {
  const height = Math.floor(Math.min(box.height, box.width / aspect));
  return { width: Math.floor(height * aspect), height };
}

/** A window that is being drawn larger traces nothing until it rests so long, ms. */
const SETTLE = 150;

/** A size once it has stood for a moment; the first one at once. */
function useSettled(box: Size): Size {
  const [settled, setSettled] = useState(box);
  const first = settled.width === 0;
  useEffect(() => {
    if (first) {
      setSettled(box);
      return;
    }
    const timer = setTimeout(() => setSettled(box), SETTLE);
    return () => clearTimeout(timer);
  }, [box, first]);
  return settled;
}

/** What the engine is asked to show, by what the artist looks at. */
function useWish(setup: Setup, film: Size, whole: Size): ShowWish {
  const { selected, solo, mode, clay } = useViewOf('selected', 'solo', 'mode', 'clay');
  const { width, height } = film,
    { width: fullWidth, height: fullHeight } = whole;
  const share = mode === 'share' && selected !== undefined && setup.lights.items[selected] ? selected : undefined;
  return useMemo(() => {
    const shown: PictureMode = mode === 'share' ? (share ? { kind: 'share', light: share } : { kind: 'light' }) : { kind: mode };
    return { width, height, full: [fullWidth, fullHeight], solo, mode: shown, clay, thumb: THUMB };
  }, [width, height, fullWidth, fullHeight, solo, mode, share, clay]);
}

/** Asks the engine for the picture of how things stand, at every change, and says what fails: a part of its own, so that a hand renders little else. */
function Tracing({ film, full }: { film: Size; full: Size }) {
  const { engine, view, canvas } = useStage();
  const setup = useDoc((d) => d.setup);
  const failure = useView((v) => v.failure);
  const wish = useWish(setup, film, full);
  const hand = useView((v) => (v.exaggerated ? inHand(v).join(' ') : ''));
  const later = useView((v) => v.later);
  const seen = useMemo(() => exaggerate(later ? later.of(setup) : setup, hand), [setup, hand, later]);

  useEffect(() => {
    if (wish.width < 8 || wish.height < 8) return;
    engine.show(seen, wish);
    // which change the picture has come to, for who measures how old it is
    if (canvas.current) canvas.current.dataset['wish'] = String(engine.wish);
  }, [engine, seen, wish, canvas]);

  if (!failure) return null;
  return (
    <div role="alert" className="absolute inset-x-4 bottom-4 flex items-center gap-3 rounded bg-error px-3 py-2 text-black">
      <span className="flex-1">{failure}</span>
      <button
        className="btn btn-xs"
        onClick={() => {
          view.setState({ failure: undefined });
          engine.show(seen, wish);
        }}
      >
        Try again
      </button>
    </div>
  );
}

export function Picture() {
  const { engine, doc, view, canvas } = useStage();
  const id = useDoc((d) => d.id);
  const { along, showProof, afar, engineState, wipe, picking, set } = useViewOf(
    'along',
    'showProof',
    'afar',
    'engineState',
    'wipe',
    'picking',
    'set',
  );
  const { ref, width, height, film, full } = useFit(useDoc((d) => d.setup.camera.aspect));
  const proofs = usePages(['proofs', id], (cursor) => api.proofs(id, { cursor, limit: 30 }));
  // looking along a light is the set view's: the camera's picture stays beside it, live
  const beside = set || along !== undefined;

  useEffect(() => {
    engine.onFrame = (frame) => {
      const target = canvas.current;
      if (!target) return;
      if (target.width !== frame.width || target.height !== frame.height)
        Object.assign(target, { width: frame.width, height: frame.height });
      target.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(frame.rgba), frame.width, frame.height), 0, 0);
      if (frame.wish > 0) target.dataset['shown'] = String(frame.wish);
      if (frame.finished) keepSpeed(browserStorage, frame.speed);
      const { rgba: _, ...measured } = frame;
      view.setState({ frame: measured });
    };
  }, [engine, view, canvas]);

  const pickFor = useFacePicks();
  /** A click on the picture while a point is asked for: what is sharp, or aimed at, is what lies there. */
  const pickAt = async (e: MouseEvent<HTMLDivElement>) => {
    if (picking === undefined) return;
    const spot = spotOf(e);
    if (pickFor(spot)) return;
    const picked = await engine.pick(...spot);
    view.setState({ picking: undefined });
    if (!picked) {
      toast('Nothing is there.');
      return;
    }
    const { selected } = view.getState();
    if (picking === 'aim') {
      if (selected === undefined) return;
      doc.getState().change(aimAtPatch(doc.getState().setup, selected, picked.position));
      toast(`Aimed at ${objectName(doc.getState().setup, picked.object)}`);
      return;
    }
    const { setup } = doc.getState();
    const { lens } = setup.camera;
    doc.getState().change({ camera: { lens: { focus: Number(picked.depth.toFixed(3)), fNumber: lens.fNumber || 2.8 } } });
    toast(`Sharp at ${picked.depth.toFixed(2)} m: ${objectName(setup, picked.object)}`);
  };

  /** Which lights reach what lies there, each to be switched. */
  const switchesAt = async (at: Spot) => {
    const picked = await engine.pick(...at);
    view.setState({ asked: undefined, met: picked && { at, object: picked.object } });
    if (!picked) toast('Nothing is there.');
  };

  const inHandlers = useCameraHand(picking !== undefined),
    alongHandlers = useLightHand(along);
  const last = proofs.items?.[0];
  return (
    <section aria-label="Picture" className="grid min-h-0 grid-cols-[6.5rem_minmax(0,1fr)_8rem] bg-[oklch(37%_0_0)]">
      <Views hasProof={last !== undefined} />
      <div ref={ref} className="relative m-2.5 grid min-h-0 min-w-0 place-items-center">
        {beside && (
          <Suspense fallback={<p className="quiet">opening the set view …</p>}>
            <SetView hand={along === undefined ? undefined : alongHandlers} />
          </Suspense>
        )}
        <div
          className={`${beside ? 'absolute right-2 bottom-2 outline outline-white/40' : 'relative'} bg-black ${picking ? 'cursor-crosshair' : 'touch-none'}`}
          style={
            beside ? inset(width, height, along !== undefined) : afar ? { width: width / 4.5, height: height / 4.5 } : { width, height }
          }
          onClick={(e) => void pickAt(e)}
          onContextMenu={(e) => {
            e.preventDefault();
            void switchesAt(spotOf(e));
          }}
          {...inHandlers}
        >
          <canvas ref={canvas} data-testid="picture" className="block h-full w-full" aria-label="The traced picture" />
          <Guides />
          {!beside && <InPicture />}
          {wipe !== undefined && last && !showProof && <Wipe src={api.blobUrl(last.picture)} name={last.name} />}
          {showProof && last && (
            <img src={api.blobUrl(last.picture)} alt="The last proof" data-testid="last-proof" className="absolute inset-0 h-full w-full" />
          )}
          {engineState === 'loading' && <p className="absolute inset-0 grid place-items-center text-white/70">starting the engine …</p>}
          {engineState === 'building' && <p className="absolute bottom-2 left-2 text-2xs text-white/70">reading the scene …</p>}
        </div>
        <Preview />
        <Tracing film={film} full={full} />
      </div>
      <Proofs
        proofs={proofs.items ?? []}
        loading={proofs.isPending}
        more={proofs.hasNextPage ? () => void proofs.fetchNextPage() : undefined}
      />
    </section>
  );
}
