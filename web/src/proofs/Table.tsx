import type { Proof } from '@plinket/contract';
import { useMemo } from 'react';
import { factsOf } from './facts.ts';
import { useWall, useWallState } from './context.ts';

/** What the proofs on the wall say, a column for each; what differs from the first is marked and strong. */
export function Table({ proofs }: { proofs: readonly Proof[] }) {
  const wall = useWall();
  const inHand = useWallState((w) => w.inHand);
  const facts = useMemo(() => factsOf(proofs), [proofs]);
  return (
    <div className="max-h-56 shrink-0 overflow-auto border-t hairline bg-base-100" tabIndex={0} role="region" aria-label="Readings">
      <table className="w-full text-2xs" data-testid="readings">
        <thead className="sticky top-0 bg-base-100">
          <tr className="text-left">
            <th className="w-40 px-3 py-1">
              <span className="sr-only">What</span>
            </th>
            {proofs.map((p, i) => (
              <th key={p.id} scope="col" className="min-w-24 px-2 py-1 font-semibold">
                <button className={inHand === p.id ? 'underline' : ''} onClick={() => wall.setState({ inHand: p.id })}>
                  {i + 1} {p.name}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {facts.map(({ label, values, differs }) => (
            <tr key={label} className="border-t hairline align-top">
              <th scope="row" className="quiet px-3 py-0.5 text-left font-normal">
                {label}
              </th>
              {values.map((value, i) => (
                <td key={proofs[i]!.id} className={`px-2 py-0.5 ${differs[i] ? 'font-semibold' : ''}`}>
                  {differs[i] && <span aria-label="differs: ">≠ </span>}
                  {value}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
