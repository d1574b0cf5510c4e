import { orderOf, addBallsPatch, SHELF } from '@plinket/core';
import { Command } from 'cmdk';
import { useStage, useView } from './context.ts';
import { KEYS } from './keys.ts';
import { useShelf } from './Shelf.tsx';
import { sortPatch } from './Shares.tsx';

/** The sheet of keys. */
export function Help() {
  const { view } = useStage();
  const open = useView((v) => v.help);
  if (!open) return null;
  const close = () => view.setState({ help: false });
  return (
    <dialog open className="modal modal-open" aria-label="Keys" onClick={close}>
      <div className="modal-box max-w-lg border hairline" onClick={(e) => e.stopPropagation()}>
        <h2 className="mb-2 text-base font-semibold">Keys</h2>
        <dl className="columns-1">
          {KEYS.map(([key, what]) => (
            <div key={key} className="flex gap-3 border-b hairline py-0.5">
              <dt className="w-28 shrink-0 font-semibold">{key}</dt>
              <dd className="quiet">{what}</dd>
            </div>
          ))}
        </dl>
        <p className="quiet pt-3">
          Numbers can be typed, dragged by their label, and stepped with the arrow keys. Typed they take units and sums: 40cm, 5600K, +1/3,
          200kcd/m2, 500W@15, 2*35; +=10 adds, *2 doubles.
        </p>
        <div className="flex justify-end gap-2 pt-3">
          <button className="btn btn-sm" onClick={() => view.setState({ help: false, tour: 0 })}>
            Take the tour
          </button>
          <button className="btn btn-primary btn-sm" autoFocus onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}

/** Everything that can be done, by name. */
export function Commands() {
  const stage = useStage();
  const { doc, view } = stage;
  const open = useView((v) => v.commands);
  const put = useShelf();
  if (!open) return null;
  const close = () => view.setState({ commands: false });
  const { setup } = doc.getState();
  const all: [string, () => void][] = [
    ['Keep proof', stage.keepProof],
    ['Download PNG with its setup', stage.downloadPng],
    ['Bring in a character', stage.chooseFile],
    ['Undo', () => void doc.getState().undo()],
    ['Redo', () => void doc.getState().redo()],
    ['Download the contact sheet of shares, PNG', stage.downloadContactSheet],
    ['Add a light from the shelf', () => view.setState({ shelf: true })],
    ...SHELF.map((item): [string, () => void] => [`Add: ${item.name}`, () => put(item)]),
    ['Sort the lights by role', () => void doc.getState().change(sortPatch(setup))],
    ['Chrome and grey balls beside the head', () => doc.getState().change(addBallsPatch(setup))],
    ['Table of what every light reaches', () => view.setState({ panel: 'reach' })],
    ['Kits', () => view.setState({ panel: 'kits' })],
    ['History of this setup', () => view.setState({ panel: 'history' })],
    ['Show stops in false tones', () => view.setState({ mode: 'tones' })],
    ['Show openness', () => view.setState({ mode: 'openness' })],
    ['Show alpha', () => view.setState({ mode: 'alpha' })],
    ['Grey clay on everything, on and off', () => view.setState((v) => ({ clay: !v.clay }))],
    ['Look sheet', () => view.setState({ sheet: 'look' })],
    ['Surfaces sheet', () => view.setState({ sheet: 'surfaces' })],
    [
      'Switch every light off',
      () => doc.getState().change({ lights: { items: Object.fromEntries(orderOf(setup.lights).map((id) => [id, { on: false }])) } }),
    ],
    [
      'Switch every light on',
      () => doc.getState().change({ lights: { items: Object.fromEntries(orderOf(setup.lights).map((id) => [id, { on: true }])) } }),
    ],
    ['All lights together', () => view.setState({ solo: [], mode: 'light' })],
    ...orderOf(setup.lights).map((id): [string, () => void] => [
      `Solo ${setup.lights.items[id]!.name}`,
      () => view.setState({ solo: [id] }),
    ]),
    ['Camera sheet', () => view.setState({ sheet: 'camera' })],
    ['Stage sheet', () => view.setState({ sheet: 'stage' })],
    ['Character sheet', () => view.setState({ sheet: 'character' })],
    ['Keys', () => view.setState({ help: true })],
  ];
  return (
    <dialog open className="modal modal-open" aria-label="Commands" onClick={close}>
      <div className="modal-box max-w-md self-start border hairline p-2" style={{ marginTop: 90 }} onClick={(e) => e.stopPropagation()}>
        <Command label="Commands" onKeyDown={(e) => e.key === 'Escape' && close()}>
          <Command.Input autoFocus placeholder="What to do?" className="mb-1 w-full rounded bg-base-200 px-3 py-2" />
          <Command.List className="max-h-72 overflow-y-auto">
            <Command.Empty className="quiet px-3 py-2">Nothing of that name.</Command.Empty>
            {all.map(([name, run]) => (
              <Command.Item
                key={name}
                className="rounded px-3 py-1.5 aria-selected:bg-base-300"
                onSelect={() => {
                  close();
                  run();
                }}
              >
                {name}
              </Command.Item>
            ))}
          </Command.List>
        </Command>
      </div>
    </dialog>
  );
}
