import { ROLES, type ObjectRef, addLightsPatch, SHELF, type ShelfItem } from '@plinket/core';
import { glowing } from '@plinket/core';
import { useStage, useView } from './context.ts';
import { LightFileButton } from './LightFiles.tsx';
import { useObjects } from './light/GlowingObject.tsx';
import { letters } from '../parts/letters.ts';

/** Adds what a shelf item makes and takes it in hand. */
export function useShelf(): (item: ShelfItem) => void {
  const { doc, view, select } = useStage();
  return (item) => {
    const { setup } = doc.getState();
    const { patch, ids } = addLightsPatch(setup, item.make(setup), letters());
    doc.getState().change(patch);
    select(ids[0]);
    view.setState({ shelf: false, leaf: 'place' });
  };
}

const TITLES: Record<(typeof ROLES)[number], string> = {
  key: 'Key',
  fill: 'Fill',
  rim: 'Rim',
  hair: 'Hair',
  kick: 'Kick',
  eye: 'Eye',
  background: 'Background',
  accent: 'Accent',
  dome: 'From everywhere',
};

/** The shelf of lights, by what they are for; each comes sensible: placed, sized by the head, as bright as the camera wants. */
export function Shelf() {
  const { doc, view, select } = useStage();
  const open = useView((v) => v.shelf);
  const put = useShelf();
  if (!open) return null;
  const close = () => view.setState({ shelf: false });
  return (
    <dialog open className="modal modal-open" aria-label="Add a light" onClick={close} onKeyDown={(e) => e.key === 'Escape' && close()}>
      <div className="modal-box max-w-3xl border hairline" onClick={(e) => e.stopPropagation()}>
        <h2 className="mb-2 text-base font-semibold">What is it for?</h2>
        <div className="grid grid-cols-3 gap-x-6 gap-y-3">
          {ROLES.map((role) => (
            <section key={role}>
              <h3 className="caps quiet border-b hairline pb-0.5">{TITLES[role]}</h3>
              <ul>
                {SHELF.filter((item) => item.role === role).map((item, i) => (
                  <li key={item.id}>
                    <button
                      className="w-full rounded px-1.5 py-1 text-left hover:bg-base-300"
                      data-testid={`shelf-${item.id}`}
                      autoFocus={role === 'key' && i === 0}
                      onClick={() => put(item)}
                    >
                      <b className="font-semibold">{item.name}</b>
                      <span className="quiet block text-2xs">{item.words}</span>
                    </button>
                  </li>
                ))}
                {role === 'accent' && (
                  <li className="px-1.5">
                    <ObjectChoice
                      onPick={(object, name) => {
                        const { setup } = doc.getState();
                        const { patch, ids } = addLightsPatch(
                          setup,
                          [glowing(object, { name: name.split(' / ').at(-1)!.slice(0, 60) })],
                          letters(),
                        );
                        doc.getState().change(patch);
                        select(ids[0]);
                        close();
                      }}
                    />
                  </li>
                )}
              </ul>
            </section>
          ))}
        </div>
        <div className="mt-3 flex items-center gap-5 border-t hairline pt-2" onClick={close}>
          <LightFileButton label="A dome from .hdr or .exr" accept=".hdr,.exr" light={undefined} />
          <LightFileButton label="A measured luminaire from .ies" accept=".ies" light={undefined} />
          <span className="quiet ml-auto text-2xs">Any can be dropped onto the Stage.</span>
          <button className="btn btn-sm" onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}

function ObjectChoice({ onPick }: { onPick(object: ObjectRef, name: string): void }) {
  const objects = useObjects();
  return (
    <label className="block">
      <b className="font-semibold">A glowing object</b>
      <select
        className="mt-0.5 w-full rounded-sm bg-base-200 px-1 text-2xs"
        value=""
        data-testid="shelf-object"
        onChange={(e) => e.target.value && onPick(e.target.value, e.target.selectedOptions[0]!.text)}
      >
        <option value="">any object of the scene …</option>
        {objects.map(([ref, name]) => (
          <option key={ref} value={ref}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
