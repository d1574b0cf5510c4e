import { orderOf, isPlaced, type Light, copyPatch, lightPatch, mirrorPatch, removeLightsPatch } from '@plinket/core';
import { Copy, FlipHorizontal2, Link2, Lock, LockOpen, Trash2 } from 'lucide-react';
import { Leaves } from '../../parts/Leaves.tsx';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { inHand, useDoc, useStage, useView, type ViewState } from '../context.ts';
import { ColourLeaf } from './Colour.tsx';
import { NotesLeaf } from './Notes.tsx';
import { ReachLeaf } from '../reach/ReachLeaf.tsx';
import { PlaceLeaf } from './Place.tsx';
import { ShapingLeaf } from './Shaping.tsx';
import { SharesLeaf } from './SharesShadow.tsx';
import { letters } from '../../parts/letters.ts';

const LEAVES: [ViewState['leaf'], string][] = [
  ['place', 'Place & source'],
  ['colour', 'Colour'],
  ['shaping', 'Shaping'],
  ['shares', 'Shares & shadow'],
  ['reach', 'Reach'],
  ['notes', 'Notes'],
];

/** What can be done with a light as a whole. */
function Deeds({ id, light }: { id: string; light: Light }) {
  const { doc, view, select } = useStage();
  const hand = useView((v) => inHand(v).length);
  const { change } = doc.getState();
  const copy = (how: 'copy' | 'opposite' | 'below') => {
    const made = copyPatch(doc.getState().setup, id, how, letters());
    change(made.patch);
    select(made.id);
  };
  const remove = () => {
    const ids = inHand(view.getState());
    change(removeLightsPatch(doc.getState().setup, ids));
    view.setState({ selected: undefined, also: [], solo: [], along: undefined });
  };
  const button = 'btn btn-ghost btn-xs btn-square';
  return (
    <span className="flex items-center">
      {isPlaced(light) && (
        <>
          <button
            className={button}
            title="To the other side of the face (M)"
            aria-label={`Mirror ${light.name}`}
            onClick={() => change(mirrorPatch(id, light))}
          >
            <FlipHorizontal2 size={13} />
          </button>
          <details className="dropdown dropdown-end">
            <summary className={button} title="A linked twin: shares everything but its place" aria-label={`Twin of ${light.name}`}>
              <Link2 size={13} />
            </summary>
            <ul className="dropdown-content z-20 w-36 rounded border hairline bg-base-200 p-1 shadow">
              {(['opposite', 'below'] as const).map((how) => (
                <li key={how}>
                  <button
                    className="w-full rounded px-2 py-1 text-left hover:bg-base-300"
                    onClick={(e) => {
                      e.currentTarget.closest('details')!.open = false;
                      copy(how);
                    }}
                  >
                    Twin {how}
                  </button>
                </li>
              ))}
            </ul>
          </details>
        </>
      )}
      <button className={button} title="A copy of its own (D)" aria-label={`Duplicate ${light.name}`} onClick={() => copy('copy')}>
        <Copy size={13} />
      </button>
      <button
        className={button}
        title={light.locked ? 'Locked: keys and drags leave it where it is' : 'Lock its place'}
        aria-pressed={light.locked}
        aria-label={`Lock ${light.name}`}
        onClick={() => change(lightPatch(id, { locked: !light.locked }))}
      >
        {light.locked ? <Lock size={13} className="text-warning" /> : <LockOpen size={13} />}
      </button>
      <button className={button} aria-label={hand > 1 ? `Remove ${hand} lights` : `Remove ${light.name}`} title="Remove" onClick={remove}>
        <Trash2 size={13} />
      </button>
    </span>
  );
}

export function LightSheet({ id, light }: { id: string; light: Light }) {
  const { doc, view } = useStage();
  const index = useDoc((d) => orderOf(d.setup.lights).indexOf(id));
  const leaf = useView((v) => v.leaf);
  const also = useView((v) => v.also.length);
  const twin = useDoc(
    (d) => light.twin && orderOf(d.setup.lights).find((o) => o !== id && d.setup.lights.items[o]!.twin?.pair === light.twin!.pair),
  );
  const order = useDoc((d) => orderOf(d.setup.lights));
  const { change } = doc.getState();
  return (
    <div data-testid="light-sheet">
      <div className="flex items-center gap-2 pt-1">
        <span
          className="grid h-5 min-w-6 place-items-center rounded-sm px-1 text-2xs font-bold text-black"
          style={{ background: colourOf(index) }}
        >
          {letterOf(index)}
        </span>
        <input
          className="h-6 min-w-0 flex-1 rounded-sm bg-transparent px-1 font-semibold hover:bg-base-300 focus:bg-base-300"
          aria-label="Name of the light"
          key={`${id} ${light.name}`}
          defaultValue={light.name}
          maxLength={60}
          onBlur={(e) => e.target.value.trim() && e.target.value !== light.name && change(lightPatch(id, { name: e.target.value.trim() }))}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
        {also > 0 && <span className="rounded bg-warning px-1.5 text-2xs font-semibold text-black">and {also} more</span>}
        {twin && also === 0 && <span className="quiet text-2xs">twin of {letterOf(order.indexOf(twin))}</span>}
        <Deeds id={id} light={light} />
      </div>
      <Leaves label="Leaves of the light" leaves={LEAVES} open={leaf} spread onOpen={(name) => view.setState({ leaf: name })} />
      {leaf === 'place' && <PlaceLeaf id={id} light={light} />}
      {leaf === 'colour' && <ColourLeaf id={id} light={light} />}
      {leaf === 'shaping' && <ShapingLeaf id={id} light={light} />}
      {leaf === 'shares' && <SharesLeaf light={light} />}
      {leaf === 'reach' && <ReachLeaf id={id} light={light} />}
      {leaf === 'notes' && <NotesLeaf id={id} light={light} />}
    </div>
  );
}
