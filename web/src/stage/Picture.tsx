import { useQuery } from '@tanstack/react-query';
import { placeInWorld, fromHead, setupHead, type Setup } from '@plinket/core';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client.ts';
import { letterOf } from '../parts/identity.ts';
import { useDoc, useStage, useView } from './context.ts';
import { Proofs } from './Proofs.tsx';

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

export function Picture() {
  const { engine, doc, view } = useStage();
  const setup = useDoc((d) => d.setup);
  const id = useDoc((d) => d.id);
  const { selected, solo, mode, along, showProof, afar, failure, engineState } = useView((v) => v);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref, width, height, film } = useFit(setup.camera.aspect);
  const { width: filmWidth, height: filmHeight } = film;
  const proofs = useQuery({ queryKey: ['proofs', id], queryFn: () => api.proofs(id) });

  const share = mode === 'share' && selected !== undefined && setup.lights.items[selected] ? selected : undefined;
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
    if (filmWidth < 8 || filmHeight < 8) return;
    engine.show(seen, {
      width: filmWidth,
      height: filmHeight,
      solo,
      mode: share ? { kind: 'share', light: share } : { kind: 'light' },
      thumb: THUMB,
    });
  }, [engine, seen, filmWidth, filmHeight, solo, share]);

  const last = proofs.data?.[0];
  const order = setup.lights.order;
  const said =
    along !== undefined
      ? `seen from ${letterOf(order.indexOf(along))}`
      : solo !== undefined
        ? `${letterOf(order.indexOf(solo))} alone`
        : share
          ? `share of ${letterOf(order.indexOf(share))}`
          : undefined;
  return (
    <section aria-label="Picture" className="grid min-h-0 grid-cols-[6.5rem_minmax(0,1fr)_8rem] bg-[oklch(37%_0_0)]">
      <nav aria-label="What the picture shows" className="flex flex-col items-start gap-0.5 p-3">
        {(
          [
            ['Light', mode === 'light' && !afar, () => view.setState({ mode: 'light', afar: false }), false],
            [
              selected ? `Share ${letterOf(order.indexOf(selected))}` : 'Share',
              mode === 'share' && !afar,
              () => view.setState({ mode: 'share', afar: false }),
              !selected,
            ],
            ['From afar', afar, () => view.setState({ afar: !afar }), false],
          ] as const
        ).map(([label, active, pick, disabled]) => (
          <button
            key={label}
            className={`rounded px-2 py-1 text-left ${active ? 'bg-base-200 font-semibold' : 'hover:bg-base-300/60'} disabled:opacity-40`}
            aria-pressed={active}
            disabled={disabled}
            onClick={pick}
          >
            {label}
          </button>
        ))}
        {said && <span className="mt-2 rounded bg-warning px-2 py-0.5 text-2xs font-semibold text-black">{said}</span>}
      </nav>
      <div ref={ref} className="relative m-2.5 grid min-h-0 min-w-0 place-items-center">
        <div className="relative bg-black" style={afar ? { width: width / 4.5, height: height / 4.5 } : { width, height }}>
          <canvas ref={canvas} data-testid="picture" className="block h-full w-full" aria-label="The traced picture" />
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
              onClick={() => (
                view.setState({ failure: undefined }),
                engine.show(doc.getState().setup, { ...film, solo, mode: { kind: 'light' }, thumb: THUMB })
              )}
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
