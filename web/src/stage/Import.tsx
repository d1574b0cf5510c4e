import { MAX_ASSET_BYTES } from '@plinket/contract';
import type { HeadFrame } from '@plinket/core';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { RefusedFile } from '../engine/bridge.ts';
import type { AssetReport } from '../engine/messages.ts';
import { NumberField } from '../parts/NumberField.tsx';
import type { Stage } from './context.ts';
import { useLightFiles } from './LightFiles.tsx';
import { replacePatch } from './replace.ts';

type Step =
  | { kind: 'reading'; fileName: string }
  | { kind: 'report'; fileName: string; bytes: ArrayBuffer; report: AssetReport }
  | { kind: 'keeping'; fileName: string }
  | { kind: 'refused'; fileName: string; message: string };

const metres = (v: number): string => (v >= 10 ? v.toFixed(1) : v.toFixed(2));
const compass = (h: HeadFrame): string => {
  const [x, , z] = h.forward;
  return Math.abs(z) >= Math.abs(x) ? (z > 0 ? '+Z, towards the camera' : '−Z, away from the camera') : x > 0 ? '+X' : '−X';
};

/** Dropping a file on the Stage. A character is read away from the page, shown, confirmed. A wrong file changes nothing. */
export function Import({ stage, opener }: { stage: Stage; opener: (open: () => void) => void }) {
  const [step, setStep] = useState<Step>();
  const [over, setOver] = useState(false);
  const [scale, setScale] = useState(1);
  const input = useRef<HTMLInputElement>(null);
  const bringLightFile = useLightFiles();

  const read = async (file: File) => {
    if (/\.(hdr|exr|ies|png)$/i.test(file.name)) return bringLightFile(file, stage.view.getState().selected);
    setStep({ kind: 'reading', fileName: file.name });
    setScale(1);
    try {
      if (file.size > MAX_ASSET_BYTES)
        throw new RefusedFile(
          'too-large',
          `The file has ${Math.round(file.size / 1e6)} MB; ${Math.round(MAX_ASSET_BYTES / 1e6)} MB are the most.`,
        );
      const bytes = await file.arrayBuffer();
      const report = await stage.engine.inspect(file.name, bytes);
      setStep({ kind: 'report', fileName: file.name, bytes, report });
    } catch (error) {
      setStep({ kind: 'refused', fileName: file.name, message: error instanceof Error ? error.message : String(error) });
    }
  };
  const readRef = useRef(read);
  readRef.current = read;

  useEffect(() => {
    opener(() => input.current?.click());
    const carries = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false;
    const dragover = (e: DragEvent) => {
      if (!carries(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (!e.relatedTarget) setOver(false);
    };
    const drop = (e: DragEvent) => {
      if (!carries(e)) return;
      e.preventDefault();
      setOver(false);
      const file = e.dataTransfer?.files[0];
      if (file) void readRef.current(file);
    };
    window.addEventListener('dragover', dragover);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', dragover);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, [opener]);

  const keep = async (current: Extract<Step, { kind: 'report' }>) => {
    setStep({ kind: 'keeping', fileName: current.fileName });
    try {
      const asset = await api.addAsset(current.fileName, current.bytes);
      stage.doc.getState().change(replacePatch(stage.doc.getState().setup, current.report, asset.sha256, scale));
      stage.view.setState({ sheet: 'character' });
      setStep(undefined);
      toast(`${current.report.name} is on the stage`, { action: { label: 'Undo', onClick: () => stage.doc.getState().undo() } });
    } catch (error) {
      setStep({ kind: 'refused', fileName: current.fileName, message: (error as Error).message });
    }
  };

  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".glb,model/gltf-binary"
        className="hidden"
        data-testid="glb-input"
        onChange={(e) => e.target.files?.[0] && void read(e.target.files[0]).finally(() => (e.target.value = ''))}
      />
      {over && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded border-2 border-dashed border-base-content bg-black/50 text-lg font-semibold">
          Drop it here: a character (GLB), a dome (HDR, EXR), a luminaire (IES), a gobo (PNG)
        </div>
      )}
      {step && (
        <dialog open className="modal modal-open" aria-label="Bring in a character">
          <div className="modal-box max-w-xl border hairline">
            {(step.kind === 'reading' || step.kind === 'keeping') && (
              <p role="status">{step.kind === 'reading' ? `Reading ${step.fileName} …` : `Keeping ${step.fileName} …`}</p>
            )}
            {step.kind === 'refused' && (
              <div role="alert">
                <h2 className="mb-1 text-base font-semibold">{step.fileName} was not brought in</h2>
                <p className="mb-3">{step.message}</p>
                <p className="quiet mb-4">Nothing on the stage has changed.</p>
                <div className="flex justify-end gap-2">
                  <button className="btn btn-sm" onClick={() => input.current?.click()}>
                    Choose another file
                  </button>
                  <button className="btn btn-primary btn-sm" autoFocus onClick={() => setStep(undefined)}>
                    Close
                  </button>
                </div>
              </div>
            )}
            {step.kind === 'report' && (
              <Report step={step} scale={scale} setScale={setScale} keep={() => void keep(step)} cancel={() => setStep(undefined)} />
            )}
          </div>
        </dialog>
      )}
    </>
  );
}

function Report({
  step,
  scale,
  setScale,
  keep,
  cancel,
}: {
  step: Extract<Step, { kind: 'report' }>;
  scale: number;
  setScale: (v: number) => void;
  keep: () => void;
  cancel: () => void;
}) {
  const { report } = step;
  const { width, height, depth } = report.size;
  const rows: [string, string][] = [
    ['Size', `${metres(width * scale)} m wide, ${metres(height * scale)} m tall, ${metres(depth * scale)} m deep`],
    ['Triangles', report.triangles.toLocaleString('en')],
    [
      'Parts',
      `${report.parts.length}: ${report.parts
        .slice(0, 6)
        .map((p) => p.name)
        .join(', ')}${report.parts.length > 6 ? ' …' : ''}`,
    ],
    ['Faces', compass(report.head)],
    [
      'Head',
      report.head.source === 'file'
        ? `from ${report.landmarks} landmarks in the file`
        : 'proposed from the bounding box; it can be corrected afterwards',
    ],
  ];
  return (
    <div data-testid="import-report">
      <h2 className="mb-2 text-base font-semibold">{report.name}</h2>
      <dl className="mb-3">
        {rows.map(([k, v]) => (
          <div key={k} className="flex gap-3 border-b hairline py-1">
            <dt className="quiet w-20 shrink-0">{k}</dt>
            <dd>{v}</dd>
          </div>
        ))}
      </dl>
      {report.warnings.length > 0 && (
        <ul className="mb-3 border-l-2 border-warning pl-3">
          {report.warnings.map((w) => (
            <li key={w.message}>{w.message}</li>
          ))}
        </ul>
      )}
      <div className="mb-4 w-56">
        <NumberField label="Scale" unit="×" value={scale} step={0.01} digits={4} min={0.0001} max={1000} onChange={setScale} />
      </div>
      <div className="flex justify-end gap-2">
        <button className="btn btn-sm" onClick={cancel}>
          Leave it
        </button>
        <button className="btn btn-primary btn-sm" autoFocus onClick={keep} data-testid="import-keep">
          Put it on the stage
        </button>
      </div>
    </div>
  );
}
