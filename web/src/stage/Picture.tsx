import { useQuery } from '@tanstack/react-query';
import { placeInWorld, fromHead, setupHead, type Setup } from '@plinket/core';
import { useEffect, useMemo, useRef, useState, type MouseEvent } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { useDoc, useStage, useView } from './context.ts';
import type { PictureMode, ShowWish } from '../engine/messages.ts';
import { Proofs } from './Proofs.tsx';
import { Views } from './Views.tsx';
import { Wipe } from './Wipe.tsx';

/** Most pixels that the Stage traces; a larger frame is scaled up on screen. */
const MAX_PIXELS = 240_000;
const THUMB: [number, number] = [164, 84];

/** The setup as seen from a light: its camera put where the light is. */
function alongLight(setup: Setup, id: string): Setup {
  const light = setup.lights.items[id];
  if (light?.kind !== 'rectangle') return setup;
  const head = setupHead(setup);
  return {
    ...setup,
    camera: {
      ...setup.camera,
      position: placeInWorld(head, light.place),
      target: fromHead(head, light.place.aim),
      focal: Math.max(20, light.place.distance * 34),
    },
  };
}

function useFit(aspect: number) {
  const ref = useRef<HTMLDivElement>(null);
  const [box, setBox] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setBox({ width: entry!.contentRect.width, height: entry!.contentRect.height }));
    observer.observe(ref.current!);
    return () => observer.disconnect();
  }, []);
  const height = Math.floor(Math.min(box.height, box.width / aspect)),
    width = Math.floor(height * aspect);
  const k = Math.min(1, Math.sqrt(MAX_PIXELS / Math.max(1, width * height)));
  return { ref, width, height, film: { width: Math.floor(width * k), height: Math.floor(height * k) } };
}

/** What the engine is asked to show, by what the artist looks at. */
function useWish(film: { width: number; height: number }): ShowWish {
  const setup = useDoc((d) => d.setup);
  const { selected, solo, mode, clay } = useView((v) => v);
  const { width, height } = film;
  const share = mode === 'share' && selected !== undefined && setup.lights.items[selected] ? selected : undefined;
  return useMemo(() => {
    const shown: PictureMode = mode === 'share' ? (share ? { kind: 'share', light: share } : { kind: 'light' }) : { kind: mode };
    return { width, height, solo, mode: shown, clay, thumb: THUMB };
  }, [width, height, solo, mode, share, clay]);
}

export function Picture() {
  const { engine, doc, view } = useStage();
  const setup = useDoc((d) => d.setup);
  const id = useDoc((d) => d.id);
  const { along, showProof, afar, failure, engineState, wipe, picking } = useView((v) => v);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref, width, height, film } = useFit(setup.camera.aspect);
  const wish = useWish(film);
  const proofs = useQuery({ queryKey: ['proofs', id], queryFn: () => api.proofs(id) });
  const seen = useMemo(() => (along === undefined ? setup : alongLight(setup, along)), [setup, along]);

  useEffect(() => {
    engine.onFrame = (frame) => {
      const target = canvas.current;
      if (!target) return;
      if (target.width !== frame.width || target.height !== frame.height)
        Object.assign(target, { width: frame.width, height: frame.height });
      target.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(frame.rgba), frame.width, frame.height), 0, 0);
      const { rgba: _, ...measured } = frame;
      view.setState({ frame: measured });
    };
  }, [engine, view]);

  useEffect(() => {
    if (wish.width < 8 || wish.height < 8) return;
    engine.show(seen, wish);
  }, [engine, seen, wish]);

  /** A click on the picture while a point is asked for: what is sharp is what lies there. */
  const pickAt = async (e: MouseEvent<HTMLDivElement>) => {
    if (picking !== 'focus') return;
    const box = e.currentTarget.getBoundingClientRect();
    const picked = await engine.pick((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
    view.setState({ picking: undefined });
    if (!picked) {
      toast('Nothing is there to focus on.');
      return;
    }
    const { lens } = doc.getState().setup.camera;
    doc.getState().change({ camera: { lens: { focus: Number(picked.depth.toFixed(3)), fNumber: lens.fNumber || 2.8 } } });
    toast(`Sharp at ${picked.depth.toFixed(2)} m: ${picked.object}`);
  };

  const last = proofs.data?.[0];
  return (
    <section aria-label="Picture" className="grid min-h-0 grid-cols-[6.5rem_minmax(0,1fr)_8rem] bg-[oklch(37%_0_0)]">
      <Views hasProof={last !== undefined} />
      <div ref={ref} className="relative m-2.5 grid min-h-0 min-w-0 place-items-center">
        <div
          className={`relative bg-black ${picking ? 'cursor-crosshair' : ''}`}
          style={afar ? { width: width / 4.5, height: height / 4.5 } : { width, height }}
          onClick={(e) => void pickAt(e)}
        >
          <canvas ref={canvas} data-testid="picture" className="block h-full w-full" aria-label="The traced picture" />
          {wipe !== undefined && last && !showProof && <Wipe src={api.blobUrl(last.picture)} name={last.name} />}
          {showProof && last && (
            <img src={api.blobUrl(last.picture)} alt="The last proof" data-testid="last-proof" className="absolute inset-0 h-full w-full" />
          )}
          {engineState === 'loading' && <p className="absolute inset-0 grid place-items-center text-white/70">starting the engine …</p>}
          {engineState === 'building' && <p className="absolute bottom-2 left-2 text-2xs text-white/70">reading the scene …</p>}
        </div>
        {failure && (
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
        )}
      </div>
      <Proofs proofs={proofs.data ?? []} loading={proofs.isPending} />
    </section>
  );
}
