import { orderOf, STAND_INS, type StandIn, besidePatch, replacePatch } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import type { AssetReport } from '../engine/messages.ts';
import { usePages } from '../parts/pages.ts';
import { useRemoval } from '../parts/removal.ts';
import { useDoc, useStage } from './context.ts';
import { letters } from '../parts/letters.ts';

const WORDS: Record<StandIn, string> = { figure: 'Figure', bust: 'Bust', ball: 'Ball on a stick', knot: 'Knot' };

/** Characters that have been here before, and stand-ins: chosen, then put in place of the first or beside the others. */
export function CharacterShelf() {
  const { doc, engine, view } = useStage();
  const queries = useQueryClient();
  const first = useDoc((d) => d.setup.subjects.items[orderOf(d.setup.subjects)[0] ?? '']?.name);
  const [search, setSearch] = useState('');
  const assets = usePages(['assets', search], (cursor) => api.assets({ cursor, search }));
  const removal = useRemoval(['assets']);
  const [chosen, setChosen] = useState('');
  const [busy, setBusy] = useState(false);

  const reportOf = async (): Promise<{ report: AssetReport; sha256: string }> => {
    const kind = STAND_INS.find((k) => k === chosen);
    if (!kind) {
      const { name, sha256 } = assets.items!.find((a) => a.sha256 === chosen)!;
      return { sha256, report: await engine.shelved(sha256, name) };
    }
    const { report, glb } = await engine.standIn(kind);
    const { sha256 } = await api.addAsset(`${report.name}.glb`, glb);
    await queries.invalidateQueries({ queryKey: ['assets'] });
    return { report, sha256 };
  };
  const put = async (beside: boolean) => {
    setBusy(true);
    try {
      const { report, sha256 } = await reportOf();
      const { setup, change } = doc.getState();
      if (beside) {
        const made = besidePatch(setup, report, sha256, 1, letters());
        change(made.patch);
        view.setState({ subject: made.id });
      } else {
        change(replacePatch(setup, report, sha256, 1, letters()));
        view.setState({ subject: undefined });
      }
      setChosen('');
    } catch (error) {
      toast.error(`That character cannot be put on the stage: ${(error as Error).message}`);
    } finally {
      setBusy(false);
    }
  };
  const known = (assets.items ?? []).filter((a) => !a.name.startsWith('Stand-in'));
  const thrown = known.find((a) => a.sha256 === chosen);
  return (
    <div className="mt-1.5">
      {(search !== '' || assets.hasNextPage) && (
        <input
          type="search"
          className="input input-xs mb-1 w-full"
          aria-label="Find a character"
          placeholder="find a character"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      )}
      <select
        className="select select-xs w-full"
        aria-label="Characters from the shelf"
        data-testid="character-shelf"
        value={chosen}
        onChange={(e) => setChosen(e.target.value)}
      >
        <option value="">From the shelf …</option>
        <optgroup label="Characters">
          {known.map((a) => (
            <option key={a.sha256} value={a.sha256}>
              {a.name}, {a.size.height.toFixed(2)} m
            </option>
          ))}
        </optgroup>
        <optgroup label="Stand-ins">
          {STAND_INS.map((k) => (
            <option key={k} value={k}>
              {WORDS[k]}
            </option>
          ))}
        </optgroup>
      </select>
      {chosen !== '' && (
        <div className="mt-1 flex gap-1">
          <button className="btn btn-xs flex-1" disabled={busy} data-testid="shelf-place" onClick={() => void put(false)}>
            {first === undefined ? 'On the stage' : 'In its place'}
          </button>
          {first !== undefined && (
            <button className="btn btn-xs flex-1" disabled={busy} data-testid="shelf-beside" onClick={() => void put(true)}>
              Beside
            </button>
          )}
          {thrown && (
            <button
              className="btn btn-ghost btn-xs btn-square"
              disabled={busy}
              aria-label={`Throw ${thrown.name} away`}
              title={`Throw ${thrown.name} away`}
              onClick={() => {
                setChosen('');
                void removal(
                  thrown.name,
                  () => api.removeAsset(thrown.sha256),
                  () => api.restoreAsset(thrown.sha256),
                );
              }}
            >
              <Trash2 size={12} />
            </button>
          )}
        </div>
      )}
    </div>
  );
}
