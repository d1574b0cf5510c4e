import { MAX_ASSET_BYTES } from '@plinket/contract';
import { guessScale, type HeadFrame } from '@plinket/core';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { RefusedFile } from '../engine/bridge.ts';
import type { AssetReport } from '../engine/messages.ts';
import { NumberField } from '../parts/NumberField.tsx';
import type { Stage } from './context.ts';
import { useLightFiles } from './LightFiles.tsx';
import { besidePatch, replacePatch } from './replace.ts';

type Step =
  | { kind: 'reading'; fileName: string }
  | { kind: 'report'; fileName: string; bytes: ArrayBuffer; report: AssetReport }
  | { kind: 'keeping'; fileName: string }
  | { kind: 'refused'; fileName: string; message: string };

/** Files that characters are read from; what is dropped with one belongs to it. */
const CHARACTER = /\.(glb|obj|ply|stl)$/i;

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

  const read = async (files: File[]) => {
    const file = files.find((f) => CHARACTER.test(f.name)) ?? files[0];
    if (!file) return;
    if (/\.(hdr|exr|ies|png)$/i.test(file.name)) return bringLightFile(file, stage.view.getState().selected);
    setStep({ kind: 'reading', fileName: file.name });
    setScale(1);
    try {
      if (file.size > MAX_ASSET_BYTES)
        throw new RefusedFile(
          'too-large',
          `The file has ${Math.round(file.size / 1e6)} MB; ${Math.round(MAX_ASSET_BYTES / 1e6)} MB are the most.`,
        );
      const all = [file, ...files.filter((f) => f !== file)];
      const { report, glb } = await stage.engine.inspect(
        await Promise.all(all.map(async (f) => ({ name: f.name, bytes: await f.arrayBuffer() }))),
      );
      setStep({ kind: 'report', fileName: file.name, bytes: glb, report });
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
      void readRef.current([...(e.dataTransfer?.files ?? [])]);
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

  const keep = async (current: Extract<Step, { kind: 'report' }>, beside = false) => {
    setStep({ kind: 'keeping', fileName: current.fileName });
    try {
      const asset = await api.addAsset(current.fileName, current.bytes);
      const { setup, change } = stage.doc.getState();
      if (beside) {
        const { patch, id } = besidePatch(setup, current.report, asset.sha256, scale);
        change(patch);
        stage.view.setState({ sheet: 'character', subject: id });
      } else {
        change(replacePatch(setup, current.report, asset.sha256, scale));
        stage.view.setState({ sheet: 'character', subject: setup.subjects.order[0] });
      }
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
        accept=".glb,.obj,.mtl,.ply,.stl,model/gltf-binary"
        multiple
        className="hidden"
        data-testid="glb-input"
        onChange={(e) => e.target.files?.length && void read([...e.target.files]).finally(() => (e.target.value = ''))}
      />
      {over && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded border-2 border-dashed border-base-content bg-black/50 text-lg font-semibold">
          Drop it here: a character (GLB, OBJ with its MTL, PLY, STL), a dome (HDR, EXR), a luminaire (IES), a gobo (PNG)
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
              <Report
                step={step}
                scale={scale}
                setScale={setScale}
                keep={(beside) => void keep(step, beside)}
                others={stage.doc.getState().setup.subjects.order.length}
                cancel={() => setStep(undefined)}
              />
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
  others,
  cancel,
}: {
  step: Extract<Step, { kind: 'report' }>;
  scale: number;
  setScale: (v: number) => void;
  keep: (beside: boolean) => void;
  others: number;
  cancel: () => void;
}) {
  const { report } = step;
  const { width, height, depth } = report.size;
  const guesses = guessScale(height);
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
      {guesses.length > 0 && (
        <p className="mb-2 flex flex-wrap items-center gap-2">
          <span className="text-warning">{metres(height)} m tall. This looks like</span>
          {guesses.slice(0, 3).map((g) => (
            <button
              key={g.unit}
              className={`btn btn-xs ${scale === g.factor ? 'btn-warning text-black' : ''}`}
              data-testid="scale-guess"
              onClick={() => setScale(g.factor)}
            >
              {g.unit}: × {g.factor}, {metres(g.height)} m
            </button>
          ))}
        </p>
      )}
      <HeightMark height={height * scale} />
      <div className="mb-4 w-56">
        <NumberField label="Scale" unit="×" value={scale} step={0.01} digits={4} min={0.0001} max={1000} onChange={setScale} />
      </div>
      <div className="flex justify-end gap-2">
        <button className="btn btn-sm" onClick={cancel}>
          Leave it
        </button>
        {others > 0 && (
          <button className="btn btn-sm" onClick={() => keep(true)} data-testid="import-beside">
            Beside the others
          </button>
        )}
        <button className="btn btn-primary btn-sm" autoFocus onClick={() => keep(false)} data-testid="import-keep">
          {others > 0 ? 'In place of the first' : 'Put it on the stage'}
        </button>
      </div>
    </div>
  );
}

/** Height of a grown person, metres; common practice, no source. */
const PERSON = 1.7;

/** The character's height beside a person's: scale is seen at a glance. */
function HeightMark({ height }: { height: number }) {
  const most = Math.max(PERSON, Math.min(height, 12)) * 1.08;
  const y = (v: number) => 92 - (Math.min(v, most) / most) * 88;
  const k = (92 - y(PERSON)) / 100;
  return (
    <svg viewBox="0 0 220 100" className="mb-2 h-24" role="img" aria-label={`${metres(height)} m beside a person of ${PERSON} m`}>
      <line x1={4} x2={216} y1={92} y2={92} stroke="currentColor" strokeOpacity={0.4} />
      <g transform={`translate(52 92) scale(${k})`} fill="currentColor" fillOpacity={0.35}>
        <circle cx={0} cy={-93} r={7} />
        <path d="M-13 -84 Q0 -88 13 -84 L15 -46 H10 L8 0 H1 V-42 H-1 V0 H-8 L-10 -46 H-15Z" />
      </g>
      <rect x={110} y={y(height)} width={26} height={Math.max(1, 92 - y(height))} fill="none" stroke="currentColor" />
      <text x={144} y={y(height) + 8} fontSize={9} fill="currentColor">
        {metres(height)} m{height > 12 ? ' and more' : ''}
      </text>
      <text x={70} y={y(PERSON) + 8} fontSize={9} fill="currentColor" fillOpacity={0.6}>
        1.7 m
      </text>
    </svg>
  );
}
