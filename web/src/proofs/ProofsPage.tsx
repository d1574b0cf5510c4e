import type { Proof, ProofChange } from '@plinket/contract';
import { MOST_PINS } from '@plinket/core';
import { useQueries } from '@tanstack/react-query';
import { Download, Minus, Plus } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { Empty } from '../parts/Empty.tsx';
import { PageHeader } from '../parts/PageHeader.tsx';
import { save } from '../parts/save.ts';
import { useSaying } from '../parts/saying.ts';
import { Leaf, NEW_PIN } from './Leaf.tsx';
import { Shelf } from './Shelf.tsx';
import { Table } from './Table.tsx';
import { Wall } from './Wall.tsx';
import { createWall, MOST, WHOLE, zoomed, type Looking } from './wall.ts';
import { useWall, useWallState, WallContext } from './context.ts';

const LOOKS: [Looking, string, string][] = [
  ['side', 'Side by side', 'All of them, the same part of each'],
  ['wipe', 'Wipe', 'The first and the one in hand, with a line between'],
  ['blink', 'Blink', 'One after the other in one place'],
  ['difference', 'Difference', 'Where and by how many stops the one in hand differs from the first'],
  ['shares', 'Shares', 'Every light of each of them alone, traced anew'],
];

function Tools({ proofs }: { proofs: readonly Proof[] }) {
  const wall = useWall();
  const { looking, crop } = useWallState((w) => w);
  const [busy, setBusy] = useState(false);
  const out = (kind: 'png' | 'pdf') => {
    setBusy(true);
    import('./sheet.ts')
      .then(({ wallSheet }) => wallSheet(proofs, kind))
      .then((file) => save(file, `${proofs.length === 1 ? proofs[0]!.name : 'proofs'}.${kind}`))
      .catch((error: Error) => toast.error(`No ${kind.toUpperCase()} was made: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return (
    <>
      <div className="join" role="group" aria-label="How they are looked at">
        {LOOKS.map(([name, label, title]) => (
          <button
            key={name}
            className={`btn join-item btn-sm ${looking === name ? 'btn-primary' : ''}`}
            aria-pressed={looking === name}
            title={title}
            disabled={proofs.length < (name === 'side' || name === 'shares' ? 1 : 2)}
            onClick={() => wall.setState({ looking: name })}
          >
            {label}
          </button>
        ))}
      </div>
      <div className="flex items-center gap-1" role="group" aria-label="Zoom">
        <button
          className="btn btn-sm btn-square"
          aria-label="Smaller"
          disabled={crop.zoom <= 1}
          onClick={() => wall.setState({ crop: zoomed(crop, 1 / 1.5) })}
        >
          <Minus size={14} />
        </button>
        <button className="btn btn-sm w-16" title="Show all of them" onClick={() => wall.setState({ crop: WHOLE })} data-testid="zoom">
          {Math.round(crop.zoom * 100)} %
        </button>
        <button className="btn btn-sm btn-square" aria-label="Larger" onClick={() => wall.setState({ crop: zoomed(crop, 1.5) })}>
          <Plus size={14} />
        </button>
      </div>
      <button className="btn btn-sm" disabled={busy || proofs.length === 0} onClick={() => out('png')}>
        <Download size={14} /> PNG
      </button>
      <button className="btn btn-sm" disabled={busy || proofs.length === 0} onClick={() => out('pdf')}>
        <Download size={14} /> PDF
      </button>
    </>
  );
}

/** Changes what is said of a proof. */
function useChanging() {
  const say = useSaying();
  return (proof: Proof, change: ProofChange): void =>
    say<Proof>({
      name: proof.name,
      key: ['proof', proof.id],
      lists: ['proofs'],
      after: (now) => ({ ...now, ...change }),
      send: () => api.changeProof(proof.id, change),
    });
}

/** The proof wall: two to nine kept looks, compared. Which ones stands in the address. */
export function ProofsPage() {
  const [wall] = useState(createWall);
  const [params, setParams] = useSearchParams();
  const on = useMemo(() => [...new Set((params.get('on') ?? '').split(',').filter(Boolean))].slice(0, MOST), [params]);
  const setup = params.get('setup') ?? undefined;
  const changing = useChanging();
  const answers = useQueries({
    queries: on.map((id) => ({ queryKey: ['proof', id], queryFn: () => api.proof(id), staleTime: 30_000 })),
    combine: (all) => ({
      proofs: all.flatMap((q) => (q.data ? [q.data] : [])),
      pending: all.some((q) => q.isPending),
      failed: all.flatMap((q) => (q.error ? [q.error.message] : []))[0],
    }),
  });
  const put = (next: { on?: readonly string[]; setup?: string | undefined }) =>
    setParams(
      (old) => {
        const changed = new URLSearchParams(old);
        if (next.on) changed.set('on', next.on.join(','));
        if ('setup' in next) changed.delete('setup');
        if (!changed.get('on')) changed.delete('on');
        return changed;
      },
      { replace: true },
    );
  const off = (id: string) => put({ on: on.filter((o) => o !== id) });
  const { proofs, pending, failed } = answers;
  const pin = (proof: Proof, at: [number, number]) => {
    wall.setState({ pinning: false });
    if (proof.pins.length >= MOST_PINS) return void toast.error(`${MOST_PINS} pins are the most that a picture takes.`);
    changing(proof, { pins: [...proof.pins, { at, text: NEW_PIN }] });
  };
  useEffect(() => {
    document.title = 'Proofs – Plinket';
    return () => void (document.title = 'Plinket');
  }, []);
  return (
    <WallContext.Provider value={wall}>
      <div className="flex h-full min-w-[1000px] flex-col overflow-hidden">
        <PageHeader title="Proofs">
          <Tools proofs={proofs} />
        </PageHeader>
        <main className="flex min-h-0 flex-1">
          <Shelf
            on={on}
            onToggle={(id) => (on.includes(id) ? off(id) : put({ on: [...on, id] }))}
            setup={setup}
            onSetup={() => put({ setup: undefined })}
          />
          <div className="flex min-h-0 min-w-0 flex-1 flex-col">
            {proofs.length > 0 ? (
              <>
                <div className="flex min-h-0 flex-1 bg-[oklch(37%_0_0)] p-3">
                  <Wall proofs={proofs} onPin={pin} />
                </div>
                <Table proofs={proofs} />
              </>
            ) : (
              <div className="flex-1 bg-[oklch(37%_0_0)]">
                <Empty title={failed ? 'This proof is not here' : pending && on.length ? 'Putting them up …' : 'Nothing is on the wall'}>
                  {failed ??
                    (on.length === 0 && 'Choose two to nine on the shelf: they hang side by side, with what was read of each below.')}
                </Empty>
              </div>
            )}
            {proofs.length > 0 && failed && (
              <p className="bg-base-100 px-3 py-1" role="status">
                One is not shown: {failed}
              </p>
            )}
          </div>
          <InHand proofs={proofs} onChange={changing} onOff={off} />
        </main>
      </div>
    </WallContext.Provider>
  );
}

function InHand(props: { proofs: readonly Proof[]; onChange(proof: Proof, change: ProofChange): void; onOff(id: string): void }) {
  const inHand = useWallState((w) => w.inHand);
  const proof = props.proofs.find((p) => p.id === inHand) ?? props.proofs.at(-1);
  if (!proof) return null;
  return <Leaf proof={proof} onChange={(change) => props.onChange(proof, change)} onOff={() => props.onOff(proof.id)} />;
}
