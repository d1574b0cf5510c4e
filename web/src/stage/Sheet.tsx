import { useDoc, useStage, useView, type SheetName } from './context.ts';
import { CameraSheet, CharacterSheet, StageSheet } from './SetSheets.tsx';
import { LightSheet } from './LightSheet.tsx';

const TABS: [SheetName, string][] = [
  ['light', 'Light'],
  ['camera', 'Camera'],
  ['stage', 'Stage'],
  ['character', 'Character'],
];

/** What can be set, in four sheets: the selected light, camera, stage, character. */
export function Sheet() {
  const { view } = useStage();
  const sheet = useView((v) => v.sheet);
  const selected = useView((v) => v.selected);
  const setup = useDoc((d) => d.setup);
  const light = selected === undefined ? undefined : setup.lights.items[selected];
  return (
    <section aria-label="Sheet" className="flex min-h-0 flex-1 flex-col border-t hairline bg-base-100">
      <div role="tablist" className="flex gap-4 px-3 pt-1.5">
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
        {sheet === 'stage' && <StageSheet />}
        {sheet === 'character' && <CharacterSheet />}
      </div>
    </section>
  );
}
