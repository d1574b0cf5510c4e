// Who else is here, and which lights they have in hand.
import type { Hand } from '@plinket/contract';
import { Users } from 'lucide-react';
import { useEffect } from 'react';
import { inHand, useDoc, useStage, useView } from './context.ts';
import { useMe } from '../people/here.ts';
import { useShot, type OpenShot } from './shot/shot.ts';

const ANOTHER = 'another window';

/** Who a hand is of, and where, if it is in another shot. */
function handWords(hand: Hand, here: string, of: OpenShot | undefined): string {
  const name = hand.name ?? ANOTHER;
  if (hand.document === here) return name;
  const code = of?.sequence.document.shots.items[hand.document]?.code;
  return code === undefined ? `${name}, in the sequence’s setup` : `${name}, in ${code}`;
}

/** Says to the others what is in hand here. */
export function useHolding(): void {
  const { doc } = useStage();
  const selected = useView((v) => v.selected),
    also = useView((v) => v.also);
  const sequence = useShot()?.sequence.id;
  useEffect(() => doc.hold(inHand({ selected, also }), sequence), [doc, selected, also, sequence]);
}

/** How many others are here, and who. */
export function Others() {
  useHolding();
  const others = useDoc((d) => d.others),
    here = useDoc((d) => d.id);
  const of = useShot(),
    looks = useMe()?.role === 'look';
  if (looks)
    return (
      <span
        className="caps text-warning"
        title="Your role is to look: what you change is not kept. Whoever leads can give you another."
        data-testid="looks"
      >
        only looking{others.length > 0 && `, with ${others.length}`}
      </span>
    );
  if (others.length === 0) return null;
  const said = others.map((h) => handWords(h, here, of)).join(', ');
  return (
    <span
      className="quiet flex items-center gap-1"
      title={`Also here: ${said}`}
      aria-label={`Also here: ${said}`}
      data-testid="others"
      role="img"
    >
      <Users size={13} /> {others.length}
    </span>
  );
}

/** On a light's card: who else has it in hand. */
export function HeldBy({ light }: { light: string }) {
  const others = useDoc((d) => d.others),
    here = useDoc((d) => d.id);
  const of = useShot();
  const holding = others.filter((h) => h.lights.includes(light));
  if (holding.length === 0) return null;
  const said = holding.map((h) => handWords(h, here, of)).join(', ');
  return (
    <span
      className="absolute top-[83px] left-1.5 max-w-[150px] truncate rounded-sm bg-black/70 px-1 text-2xs text-white"
      title={`In hand: ${said}`}
      data-testid={`held-${light}`}
    >
      {said}
    </span>
  );
}
