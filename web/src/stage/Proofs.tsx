import type { ProofSummary } from '@plinket/contract';
import { isEmptyPatch, restorePatch } from '@plinket/core';
import { Trash2, Undo2 } from 'lucide-react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { useRemoval } from '../parts/removal.ts';
import { useDoc, useStage, useView } from './context.ts';

const leftOf = (ms: number): string =>
  ms < 1500 ? '' : ms < 90_000 ? `${Math.ceil(ms / 1000)} s left` : `${Math.ceil(ms / 60_000)} min left`;

/** Standard error in percent of the display's range. */
const noiseWords = (steps: number): string => (Number.isFinite(steps) ? `${((steps / 255) * 100).toFixed(1)} %` : '…');

/** Quiet parts of the picture rest sooner than noisy ones. */
const sampleWords = ({ samples, most, finished }: { samples: number; most: number; finished: boolean }): string =>
  `${samples === most ? samples : `${samples} to ${most}`} samples${finished ? ', at rest' : ''}`;

function Progress() {
  const camera = useDoc((d) => d.setup.camera);
  const frame = useView((v) => v.frame);
  return (
    <div className="text-right text-2xs">
      <div className="truncate font-semibold" data-testid="whose-frame">
        {camera.name}
      </div>
      <div>
        {Math.round(camera.focal)} mm{camera.lens.fNumber > 0 ? ` · f/${camera.lens.fNumber}` : ''} · EV {camera.ev.toFixed(1)}
      </div>
      {frame && (
        <div
          className="quiet"
          data-testid="progress"
          data-samples={frame.samples}
          data-finished={frame.finished}
          data-shown={frame.wish}
          data-noise={Number.isFinite(frame.noise) ? frame.noise.toFixed(3) : ''}
          data-smoothed={frame.smoothed}
          data-rays={frame.rays}
          data-balance-ms={frame.balanceMs.toFixed(2)}
        >
          {sampleWords(frame)}
          <br />
          <span title="What the remaining samples would still change, in steps of 8 bit; noise removal hides most of it">
            noise {noiseWords(frame.noise)}
            {frame.smoothed ? ', removed' : ''}
          </span>
          <br />
          {leftOf(frame.msLeft)}
        </div>
      )}
    </div>
  );
}

/** The newest two, as the wall's address names them: the later beside the earlier. */
const newest = (proofs: readonly ProofSummary[]): string =>
  proofs
    .slice(0, 2)
    .map((p) => p.id)
    .reverse()
    .join(',');

/** Kept looks beside the picture: see, restore, throw away. */
export function Proofs({ proofs, loading, more }: { proofs: ProofSummary[]; loading: boolean; more: (() => void) | undefined }) {
  const { doc } = useStage();
  const restore = async (proof: ProofSummary) => {
    try {
      const { document } = await api.proof(proof.id);
      const patch = restorePatch(doc.getState().setup, document);
      if (isEmptyPatch(patch)) toast('The setup is already as in this proof.');
      else {
        doc.getState().change(patch);
        toast(`${proof.name} restored`, { action: { label: 'Undo', onClick: () => doc.getState().undo() } });
      }
    } catch (error) {
      toast.error(`${proof.name} was not restored: ${(error as Error).message}`);
    }
  };
  const setup = doc.getState().id;
  const removal = useRemoval(['proofs', setup]);
  return (
    <aside aria-label="Proofs" className="flex min-h-0 flex-col gap-2 p-3 pl-0">
      <Progress />
      <div className="mt-1 flex items-baseline justify-end gap-2">
        <h2 className="caps quiet">Proofs</h2>
        {proofs.length > 0 && (
          <Link className="underline" to={`/proofs?setup=${setup}&on=${newest(proofs)}`} title="Compare them on the wall">
            wall
          </Link>
        )}
      </div>
      <ol className="flex min-h-0 flex-1 flex-col items-end gap-2 overflow-y-auto">
        {proofs.map((p) => (
          <li key={p.id} className="group relative w-20" data-testid="proof">
            <button
              className="block w-full rounded-sm border hairline"
              onClick={() => void restore(p)}
              aria-label={`Restore ${p.name}`}
              title={`Restore ${p.name}, ${new Date(p.createdAt).toLocaleString()}`}
            >
              <img src={api.blobUrl(p.picture)} alt={p.name} className="block w-full" loading="lazy" />
            </button>
            <div className="mt-0.5 flex items-center justify-between text-2xs">
              <span className="truncate">{p.name}</span>
              <span className="flex opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
                <button aria-label={`Restore ${p.name}`} className="p-0.5" onClick={() => void restore(p)}>
                  <Undo2 size={12} />
                </button>
                <button
                  aria-label={`Throw ${p.name} away`}
                  className="p-0.5"
                  onClick={() =>
                    void removal(
                      p.name,
                      () => api.removeProof(p.id),
                      () => api.restoreProof(p.id),
                    )
                  }
                >
                  <Trash2 size={12} />
                </button>
              </span>
            </div>
          </li>
        ))}
        {more && (
          <li>
            <button className="btn btn-ghost btn-xs" onClick={more}>
              Older
            </button>
          </li>
        )}
        {!proofs.length && !loading && <li className="quiet w-24 text-right text-2xs">none yet: P keeps this look with all its numbers</li>}
      </ol>
    </aside>
  );
}
