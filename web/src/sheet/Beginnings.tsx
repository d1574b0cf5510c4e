import { STAGES } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { FileUp, Plus } from 'lucide-react';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { useFileDrop } from '../parts/drop.ts';
import { beginning, type Begin, type Origin } from './beginnings.ts';

const ACCEPTED = '.glb,.gltf,.obj,.ply,.stl,.bin,.png,.jpg,.jpeg,.mtl';

/** Makes a setup and opens it; the Stage goes on from there. */
function useBeginning() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const begin = async (origin: Origin, first: Begin, name?: string) => {
    if (busy) return;
    setBusy(true);
    try {
      const { id } = await api.createSetup(beginning(origin, name));
      await queries.invalidateQueries({ queryKey: ['setups'] });
      await navigate(`/setup/${id}`, { state: { begin: first } });
    } catch (error) {
      toast.error(`No setup was made: ${(error as Error).message}`);
    } finally {
      setBusy(false);
    }
  };
  const fromFiles = (files: File[]) => {
    const [file] = files;
    if (file) void begin('night-sweep', { files }, file.name.replace(/\.[^.]+$/, '').slice(0, 120) || undefined);
  };
  return { busy, begin, fromFiles };
}

/** The three ways to begin: from black with a stand-in, from a stage, from a character's file. */
export function Beginnings({ large }: { large: boolean }) {
  const { busy, begin, fromFiles } = useBeginning();
  const input = useRef<HTMLInputElement>(null);
  const over = useFileDrop(fromFiles);
  const way = large ? 'btn btn-sm' : 'btn btn-sm btn-ghost';
  return (
    <div className={`flex items-center gap-2 ${large ? 'justify-center' : ''}`} role="group" aria-label="New setup">
      <button
        className={large ? 'btn btn-sm btn-primary' : 'btn btn-sm btn-primary'}
        disabled={busy}
        data-testid="new-black"
        title="A black stage, a stand-in, no light"
        onClick={() => void begin('black', { standIn: true })}
      >
        <Plus size={14} /> {large ? 'From black, with a stand-in' : 'New from black'}
      </button>
      <label className={`${way} gap-1`}>
        <span>from a stage</span>
        <select
          className="rounded-sm bg-transparent font-semibold"
          aria-label="New setup from a stage"
          data-testid="new-stage"
          disabled={busy}
          value=""
          onChange={(e) => e.target.value && void begin(e.target.value, { standIn: true })}
        >
          <option value="">choose …</option>
          {STAGES.filter((s) => s.id !== 'black').map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <button
        className={way}
        disabled={busy}
        data-testid="new-file"
        title="GLB, glTF, OBJ, PLY or STL"
        onClick={() => input.current?.click()}
      >
        <FileUp size={14} /> from a file
      </button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        accept={ACCEPTED}
        data-testid="new-file-input"
        onChange={(e) => {
          fromFiles([...(e.target.files ?? [])]);
          e.target.value = '';
        }}
      />
      {over && (
        <div className="pointer-events-none fixed inset-0 z-50 grid place-items-center bg-base-100/85 text-lg font-semibold">
          Let go to begin a setup with this character
        </div>
      )}
    </div>
  );
}
