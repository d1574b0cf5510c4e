import { MAX_ASSET_BYTES, MAX_ORIGINALS } from '@plinket/contract';
import {
  orderOf,
  mends,
  NO_MENDING,
  type Mending,
  besidePatch,
  followsClip,
  isNewer,
  newerHead,
  isStandIn,
  newerPatch,
  replacePatch,
} from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import type { NamedFile } from '../engine/bring.ts';
import { Importer, RefusedFile } from '../engine/importer.ts';
import type { AssetReport } from '../engine/messages.ts';
import type { Stage } from './context.ts';
import { ImportReport, type Keeping } from './ImportReport.tsx';
import { useLightFiles } from './LightFiles.tsx';
import { useFileDrop } from '../parts/drop.ts';
import { letters } from '../parts/letters.ts';

type Step =
  | { kind: 'reading'; fileName: string; share: number }
  | {
      kind: 'report';
      fileName: string;
      /** The character as it came, and as it is mended. */
      original: { report: AssetReport; glb: ArrayBuffer };
      mended: { report: AssetReport; glb: ArrayBuffer };
      mending: Mending;
      /** The files as they came, the character first: kept beside it where it is not the same file any more. */
      files: File[];
      /** How far mending has come, while it goes on. */
      busy: number | undefined;
      /** Name of the first subject, when this is another version of it. */
      newer: string | undefined;
    }
  | { kind: 'keeping'; fileName: string }
  | { kind: 'refused'; fileName: string; message: string };

/** Files that characters are read from; what is dropped with one belongs to it. */
const CHARACTER = /\.(glb|gltf|obj|ply|stl)$/i;

/** Dropping a file on the Stage. A character is read away from the page, shown, confirmed. A wrong file changes nothing. */
export function Import({ stage, opener }: { stage: Stage; opener: (ways: { choose(): void; bring(files: File[]): void }) => void }) {
  const [step, setStep] = useState<Step>();
  const [scale, setScale] = useState(1);
  const input = useRef<HTMLInputElement>(null);
  const bringLightFile = useLightFiles();

  /** Counts what was asked: an answer to what was given up comes too late. */
  const turn = useRef(0);
  const [importer] = useState(() => new Importer());
  useEffect(() => () => importer.stop(), [importer]);
  const queries = useQueryClient();

  const read = async (files: File[]) => {
    const mine = ++turn.current;
    const file = files.find((f) => CHARACTER.test(f.name)) ?? files[0];
    if (!file) return;
    if (/\.(hdr|exr|ies|png)$/i.test(file.name)) return bringLightFile(file, stage.view.getState().selected);
    importer.stop();
    setStep({ kind: 'reading', fileName: file.name, share: 0 });
    setScale(1);
    try {
      if (file.size > MAX_ASSET_BYTES)
        throw new RefusedFile(
          'too-large',
          `The file has ${Math.round(file.size / 1e6)} MB; ${Math.round(MAX_ASSET_BYTES / 1e6)} MB are the most.`,
        );
      if (files.length > MAX_ORIGINALS)
        throw new RefusedFile('too-many', `${files.length} files came at once; a character may have ${MAX_ORIGINALS} at the most.`);
      const all = [file, ...files.filter((f) => f !== file)];
      const named = await Promise.all(all.map(async (f): Promise<NamedFile> => ({ name: f.name, bytes: await f.arrayBuffer() })));
      const original = await importer.inspect(
        named as [NamedFile, ...NamedFile[]],
        (share) => mine === turn.current && setStep({ kind: 'reading', fileName: file.name, share }),
      );
      const { subjects } = stage.doc.getState().setup;
      const first = subjects.items[orderOf(subjects)[0] ?? ''];
      const parts =
        first && !isStandIn(first)
          ? await stage.engine.parts(first.asset).then(
              (known) => known.map((p) => p.name),
              // an old file that is lost must not keep the new one out
              () => [],
            )
          : [];
      const newer = first && isNewer(parts, original.report) ? first.name : undefined;
      if (mine === turn.current)
        setStep({
          kind: 'report',
          fileName: file.name,
          original,
          mended: original,
          mending: NO_MENDING,
          files: all,
          busy: undefined,
          newer,
        });
    } catch (error) {
      if (mine === turn.current)
        setStep({ kind: 'refused', fileName: file.name, message: error instanceof Error ? error.message : String(error) });
    }
  };
  const readRef = useRef(read);
  readRef.current = read;
  const over = useFileDrop((files) => void read(files));

  useEffect(() => {
    opener({ choose: () => input.current?.click(), bring: (files) => void readRef.current(files) });
  }, [opener]);

  /** Mends anew from the file as it came; the last wish counts. */
  const mend = async (current: Extract<Step, { kind: 'report' }>, mending: Mending) => {
    const mine = ++turn.current;
    setStep({ ...current, mending, busy: 0 });
    try {
      const mended = await importer.mend(
        current.fileName,
        current.original.glb,
        mending,
        (share) => mine === turn.current && setStep({ ...current, mending, busy: share }),
      );
      if (mine === turn.current) setStep({ ...current, mended, mending, busy: undefined });
    } catch (error) {
      if (mine !== turn.current) return;
      toast.error(`That cannot be done with this file: ${(error as Error).message}`);
      setStep({ ...current, busy: undefined });
    }
  };
  const giveUp = () => {
    turn.current++;
    importer.stop();
    setStep(undefined);
  };

  const keep = async (current: Extract<Step, { kind: 'report' }>, how: Keeping) => {
    setStep({ kind: 'keeping', fileName: current.fileName });
    try {
      const asset = await api.addAsset(current.fileName, current.mended.glb);
      // one file that is kept as it came is its own original
      if (current.files.length > 1 || current.files[0]!.size !== current.mended.glb.byteLength || mends(current.mending))
        for (const file of current.files) await api.addOriginal(asset.sha256, file);
      void queries.invalidateQueries({ queryKey: ['assets'] });
      importer.stop();
      const { setup, change } = stage.doc.getState();
      const first = orderOf(setup.subjects)[0];
      if (how === 'newer' && first !== undefined) {
        const old = setup.subjects.items[first]!,
          { report } = current.mended;
        const at = followsClip(old, report) ? await stage.engine.character(asset.sha256, old.pose, newerHead(old, report)) : undefined;
        change(newerPatch(setup, first, report, asset.sha256, scale, at?.head));
      } else if (how === 'beside') {
        const { patch, id } = besidePatch(setup, current.mended.report, asset.sha256, scale, letters());
        change(patch);
        stage.view.setState({ sheet: 'character', subject: id });
      } else {
        change(replacePatch(setup, current.mended.report, asset.sha256, scale, letters()));
        stage.view.setState({ sheet: 'character', subject: orderOf(setup.subjects)[0] });
      }
      setStep(undefined);
      toast(`${current.mended.report.name} is on the stage`, { action: { label: 'Undo', onClick: () => stage.doc.getState().undo() } });
    } catch (error) {
      setStep({ kind: 'refused', fileName: current.fileName, message: (error as Error).message });
    }
  };

  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".glb,.gltf,.bin,.obj,.mtl,.ply,.stl,.png,.jpg,.jpeg,.webp,model/gltf-binary"
        multiple
        className="hidden"
        data-testid="glb-input"
        onChange={(e) => e.target.files?.length && void read([...e.target.files]).finally(() => (e.target.value = ''))}
      />
      {over && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded border-2 border-dashed border-base-content bg-black/50 text-lg font-semibold">
          Drop it here: a character (GLB, glTF or OBJ with their files, PLY, STL), a dome (HDR, EXR), a luminaire (IES), a gobo (PNG)
        </div>
      )}
      {step && (
        <dialog open className="modal modal-open" aria-label="Bring in a character">
          <div className="modal-box max-w-xl border hairline">
            {(step.kind === 'reading' || step.kind === 'keeping') && (
              <div className="flex items-center justify-between gap-4">
                <div className="min-w-0 flex-1">
                  <p role="status" className="truncate">
                    {step.kind === 'reading' ? `Reading ${step.fileName} …` : `Keeping ${step.fileName} …`}
                  </p>
                  <progress
                    className="progress mt-1 h-1.5 w-full"
                    aria-label="How far reading has come"
                    {...(step.kind === 'reading' ? { value: step.share, max: 1 } : {})}
                  />
                </div>
                {step.kind === 'reading' && (
                  <button className="btn btn-sm" onClick={giveUp}>
                    Stop
                  </button>
                )}
              </div>
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
              <ImportReport
                original={step.original.report}
                report={step.mended.report}
                mending={step.mending}
                share={step.busy}
                mend={(next) => void mend(step, next)}
                scale={scale}
                setScale={setScale}
                keep={(how) => void keep(step, how)}
                newer={step.newer}
                others={orderOf(stage.doc.getState().setup.subjects).length}
                cancel={giveUp}
              />
            )}
          </div>
        </dialog>
      )}
    </>
  );
}
