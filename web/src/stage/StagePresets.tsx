import { STAGES, stagePatch } from '@plinket/core';
import { useStage } from './context.ts';

/** Pictures of the presets, made by `npm run presets`. */
const PICTURES = import.meta.glob<string>('./presets/*.png', { eager: true, query: '?url', import: 'default' });

/** Stages that are ready to use, to be chosen by how they look. */
export function StagePresets() {
  const { doc } = useStage();
  return (
    <div
      className="col-span-2 flex gap-1.5 overflow-x-auto pb-1.5"
      role="group"
      aria-label="Stages that are ready to use"
      data-testid="stage-presets"
    >
      {STAGES.map((preset) => (
        <button
          key={preset.id}
          className="w-[74px] shrink-0 text-left hover:text-base-content"
          title={`${preset.name}: ${preset.words}`}
          data-testid={`preset-${preset.id}`}
          onClick={() => doc.getState().change(stagePatch(preset))}
        >
          <img src={PICTURES[`./presets/${preset.id}.png`]} alt="" width={74} height={53} className="block rounded-sm border hairline" />
          <span className="quiet block truncate text-2xs">{preset.name}</span>
        </button>
      ))}
    </div>
  );
}
