import { useDoc, useStage, useView, type SheetName } from './context.ts';
import { CameraSheet } from './CameraSheet.tsx';
import { CharacterSheet } from './CharacterSheet.tsx';
import { LightSheet } from './light/LightSheet.tsx';
import { LookSheet } from './LookSheet.tsx';
import { StageSheet } from './StageSheet.tsx';
import { SurfacesSheet } from './SurfacesSheet.tsx';

const TABS: [SheetName, string][] = [
  ['light', 'Light'],
  ['camera', 'Camera'],
  ['look', 'Look'],
  ['stage', 'Stage'],
  ['surfaces', 'Surfaces'],
  ['character', 'Character'],
];

/** What can be set: the selected light, camera, look, stage, surfaces, character. */
export function Sheet() {
  const { view } = useStage();
  const sheet = useView((v) => v.sheet);
  const selected = useView((v) => v.selected);
  const light = useDoc((d) => (selected === undefined ? undefined : d.setup.lights.items[selected]));
  return (
    <section aria-label="Sheet" className="flex min-h-0 flex-1 flex-col border-t hairline bg-base-100">
      <div role="tablist" className="flex justify-between px-3 pt-1.5">
        {TABS.map(([name, label]) => (
          <button
            key={name}
            role="tab"
            aria-selected={sheet === name}
            className={`caps border-b-2 pb-0.5 ${sheet === name ? 'border-base-content' : 'quiet border-transparent'}`}
            onClick={() => view.setState({ sheet: name })}
          >
            {label}
          </button>
        ))}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-3 pt-1 pb-2">
        {sheet === 'light' &&
          (light && selected ? (
            <LightSheet id={selected} light={light} />
          ) : (
            <p className="quiet pt-6 text-center">Select a light: its card, its mark in the plan, or its number key.</p>
          ))}
        {sheet === 'camera' && <CameraSheet />}
        {sheet === 'look' && <LookSheet />}
        {sheet === 'stage' && <StageSheet />}
        {sheet === 'surfaces' && <SurfacesSheet />}
        {sheet === 'character' && <CharacterSheet />}
      </div>
    </section>
  );
}
