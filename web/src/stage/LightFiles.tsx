import type { LightFileRecord } from '@plinket/contract';
import { profiled, type Light, type Patch, type Setup, addLightsPatch, lightPatch, domeOf, profileLevel } from '@plinket/core';
import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { whatForLight } from '../engine/light-reader.ts';
import { useStage } from './context.ts';
import { letters } from '../parts/letters.ts';

const stem = (name: string): string => name.replace(/\.[^.]+$/, '').slice(0, 60) || 'Light';

/**
 * What a file does to a setup: a picture for the plate goes behind everything, a gobo goes before the light in hand, a picture into the dome in hand; what fits none of
 * these becomes a light of its own. Answers the light that is concerned.
 */
export function lightFilePatch(setup: Setup, file: LightFileRecord, id: string | undefined): { patch: Patch; id: string } | string {
  const light = id === undefined ? undefined : setup.lights.items[id];
  if (file.kind === 'gobo') {
    if (id === 'plate') return { id, patch: { plate: { kind: 'picture', asset: file.sha256 } } };
    if (!light || id === undefined || !('gobo' in light)) return 'Select the light that the picture goes before, then bring it in again.';
    return { id, patch: lightPatch(id, { gobo: { pattern: 'picture', asset: file.sha256 } }) };
  }
  if (file.kind === 'dome') {
    const layer = file.layers.includes('') ? '' : (file.layers[0] ?? '');
    const fill = { kind: 'picture' as const, asset: file.sha256, name: file.fileName.slice(0, 200), layer };
    if (light?.kind === 'dome' && id !== undefined) return { id, patch: lightPatch(id, { fill: { stops: null, ...fill } }) };
    const made = addLightsPatch(setup, [domeOf(setup, stem(file.fileName), fill)], letters());
    return { id: made.ids[0]!, patch: made.patch };
  }
  const { sha256, peak, flux, name } = file;
  const profile = { asset: sha256, name: (name || file.fileName).slice(0, 120), peak, flux };
  if (light?.kind === 'profile' && id !== undefined) return { id, patch: lightPatch(id, { profile }) };
  const made = addLightsPatch(
    setup,
    [profileLevel(setup, profiled(profile, { name: stem(file.fileName), role: 'accent' }) as Light)],
    letters(),
  );
  return { id: made.ids[0]!, patch: made.patch };
}

/** Brings files for lights in: looked over in a worker, which can be stopped, checked once more by the server, and kept there. */
export function useLightFiles(): (file: File, light: string | undefined) => Promise<void> {
  const { doc, select } = useStage();
  return async (file, light) => {
    const stop = new AbortController(),
      told = toast.loading(`Reading ${file.name} …`, {
        action: { label: 'Stop', onClick: () => stop.abort(new Error('Reading was stopped.')) },
      });
    try {
      // looked over here first: what no light can use does not go over the network
      await whatForLight(new Uint8Array(await file.arrayBuffer()), file.name, stop.signal);
      const record = await api.addLightFile(file.name, await file.arrayBuffer());
      stop.signal.throwIfAborted();
      const done = lightFilePatch(doc.getState().setup, record, light);
      if (typeof done === 'string') {
        toast(done);
        return;
      }
      doc.getState().change(done.patch);
      if (done.id !== 'plate') select(done.id);
      toast(record.notes.length ? `${file.name}: ${record.notes.join(' ')}` : `${file.name} is in`);
    } catch (error) {
      toast.error(`${file.name} was not brought in: ${(error as Error).message}`);
    } finally {
      toast.dismiss(told);
    }
  };
}

export function LightFileButton({ label, accept, light }: { label: string; accept: string; light: string | undefined }) {
  const bring = useLightFiles();
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  return (
    <>
      <button
        className="quiet flex items-center gap-1 pt-1 text-2xs hover:text-base-content"
        disabled={busy}
        onClick={() => input.current?.click()}
      >
        <FileUp size={11} /> {busy ? 'reading …' : label}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        data-testid={`file-${accept}`}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (!file) return;
          setBusy(true);
          void bring(file, light).finally(() => setBusy(false));
        }}
      />
    </>
  );
}
