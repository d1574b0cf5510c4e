// What every light of a proof gives, alone: traced anew from the setup that the proof carries.
import type { Proof } from '@plinket/contract';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { StageEngine } from '../engine/bridge.ts';
import { contactSheet } from '../parts/contact.ts';
import { save } from '../parts/save.ts';

/** Pixels of one picture of the sheet, and samples that it waits for. */
const PIXELS = 50_000,
  SAMPLES = 16;

/** Traces a proof's setup and draws its contact sheet. @throws Error that says why it cannot be traced, or that nobody waits any more */
async function sharesOf({ document, width, height }: Proof, signal: AbortSignal, told: (samples: number) => void): Promise<Blob> {
  const engine = new StageEngine();
  try {
    await new Promise<void>((done, fail) => {
      signal.addEventListener('abort', () => fail(new Error('Nobody waits for it any more.')));
      engine.onFailure = (message) => fail(new Error(message));
      engine.onFrame = ({ samples }) => {
        told(Math.min(samples, SAMPLES));
        if (samples >= SAMPLES) done();
      };
      const k = Math.sqrt(PIXELS / (width * height)),
        size: [number, number] = [Math.max(8, Math.round(width * k)), Math.max(8, Math.round(height * k))];
      engine.show(document, { width: size[0], height: size[1], full: size, solo: [], mode: { kind: 'light' }, clay: false, thumb: [8, 8] });
    });
    return await contactSheet(document, await engine.contactPictures(document));
  } finally {
    engine.close();
  }
}

/** The contact sheet of one proof; `waits` until another is done. */
function Sheet({ proof, number, waits, done }: { proof: Proof; number: number; waits: boolean; done(): void }) {
  const [samples, setSamples] = useState(0);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { data, error, isPending } = useQuery({
    queryKey: ['shares', proof.id],
    queryFn: ({ signal }) => sharesOf(proof, signal, setSamples),
    enabled: !waits,
    staleTime: Infinity,
    retry: false,
  });
  useEffect(() => {
    if (!data) return;
    let left = false;
    void createImageBitmap(data).then((picture) => {
      const target = canvas.current;
      if (left || !target) return;
      Object.assign(target, { width: picture.width, height: picture.height });
      target.getContext('2d')!.drawImage(picture, 0, 0);
    });
    return () => void (left = true);
  }, [data]);
  useEffect(() => {
    if (!isPending) done();
  }, [isPending, done]);
  return (
    <figure className="flex flex-col gap-1" data-testid="shares" data-traced={data !== undefined}>
      <figcaption className="flex items-center gap-2 text-2xs">
        <span className="min-w-0 flex-1 truncate font-semibold">
          {number} {proof.name} of {proof.setupName}
        </span>
        {data && (
          <button className="btn btn-xs" onClick={() => save(data, `${proof.setupName} ${proof.name} shares.png`)}>
            <Download size={12} aria-hidden /> PNG
          </button>
        )}
      </figcaption>
      {error ? (
        <p role="alert">Its shares cannot be traced: {error.message}</p>
      ) : data ? (
        <canvas ref={canvas} className="w-full" aria-label={`Every light of ${proof.name} alone, and all together`} />
      ) : (
        <p role="status">{waits ? 'after the one before …' : `its lights are being traced: ${samples} of ${SAMPLES} samples`}</p>
      )}
    </figure>
  );
}

/** Contact sheets of all proofs on the wall, traced one after the other. */
export function Shares({ proofs }: { proofs: readonly Proof[] }) {
  const [ready, setReady] = useState<ReadonlySet<string>>(new Set());
  return (
    <div
      className="grid h-full w-full content-start gap-3 overflow-y-auto text-white"
      tabIndex={0}
      aria-label="Contact sheets of shares"
      role="region"
    >
      {proofs.map((p, i) => (
        <Sheet
          key={p.id}
          proof={p}
          number={i + 1}
          waits={!proofs.slice(0, i).every((other) => ready.has(other.id))}
          done={() => !ready.has(p.id) && setReady(new Set([...ready, p.id]))}
        />
      ))}
    </div>
  );
}
