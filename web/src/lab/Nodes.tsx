// The machines that render, and how a further one comes to it.
import type { MadeNode } from '@plinket/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { labApi } from '../api/lab.ts';
import { SaidOnce } from '../parts/SaidOnce.tsx';
import { when } from '../parts/when.ts';
import { useNodes } from './useLab.ts';

/** What is typed on the other machine, with the token that is said only once. */
const Made = ({ node, leave }: { node: MadeNode; leave(): void }) => (
  <SaidOnce
    name={`Node ${node.name}`}
    title={`${node.name} may render`}
    said={`npm run node -- --server ${location.origin} --token ${node.token}`}
    testId="node-command"
    leave={leave}
  >
    On that machine, in a clone of Plinket. The token is said only now; it can be taken back here at any time.
  </SaidOnce>
);

export function Nodes() {
  const nodes = useNodes();
  const queries = useQueryClient();
  const [adding, setAdding] = useState(false);
  const [made, setMade] = useState<MadeNode>();
  const anew = () => queries.invalidateQueries({ queryKey: ['lab', 'nodes'] });
  const add = (name: string) =>
    void labApi
      .makeNode(name)
      .then((node) => {
        setMade(node);
        setAdding(false);
        return anew();
      })
      .catch((error: Error) => toast.error(`The node was not made: ${error.message}`));
  const items = nodes.data?.items ?? [];
  return (
    <section className="border-t hairline px-4 py-3" aria-label="Render nodes">
      <div className="mb-1 flex items-center">
        <h2 className="caps flex-1">Nodes</h2>
        <button className="btn btn-ghost btn-xs" onClick={() => setAdding((a) => !a)} aria-expanded={adding}>
          <Plus size={12} /> Add a node
        </button>
      </div>
      {adding && (
        <form
          className="mb-2 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            const name = String(new FormData(e.currentTarget).get('name')).trim();
            if (name) add(name);
          }}
        >
          <input
            name="name"
            className="input input-xs flex-1"
            aria-label="Name of the new node"
            placeholder="what the machine is called"
            maxLength={60}
            autoFocus
          />
          <button className="btn btn-primary btn-xs">Make its token</button>
        </form>
      )}
      <ul className="max-h-44 overflow-y-auto" tabIndex={0} aria-label="Nodes">
        {items.map((node) => (
          <li key={node.id} className="flex h-8 items-center gap-2" data-testid="node" data-here={node.here}>
            <i
              className={`size-2 shrink-0 rounded-full ${node.here ? 'bg-base-content' : 'border border-base-content opacity-50'}`}
              aria-hidden
            />
            <span className="min-w-0 flex-1">
              <span className="block truncate leading-4">{node.name}</span>
              <span className="quiet block truncate text-2xs leading-3">
                {node.here
                  ? (node.works ?? `waits, ${node.cores} core${node.cores === 1 ? '' : 's'}`)
                  : node.seenAt
                    ? `away since ${when(new Date(node.seenAt), new Date())}`
                    : 'was never here'}
              </span>
            </span>
            <button
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Take the token of ${node.name} back`}
              title="Take its token back: it is not heard any more"
              onClick={() =>
                void labApi
                  .revokeNode(node.id)
                  .then(anew)
                  .catch((error: Error) => toast.error(`The token stays: ${error.message}`))
              }
            >
              <X size={12} />
            </button>
          </li>
        ))}
        {nodes.isSuccess && items.length === 0 && <li className="quiet text-2xs">No machine renders: jobs wait until one comes.</li>}
      </ul>
      {made && <Made node={made} leave={() => setMade(undefined)} />}
    </section>
  );
}
