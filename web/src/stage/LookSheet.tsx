import { LIMITS, limitsTimes } from '@plinket/core';
import type { Look } from '@plinket/core';
import { FileUp } from 'lucide-react';
import { useRef } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { NumberField } from '../parts/NumberField.tsx';
import { useDoc, useStage } from './context.ts';

const VIEWS: [Look['view'], string][] = [
  ['neutral', 'neutral, soft shoulder'],
  ['plain', 'plain sRGB'],
  ['filmic', 'filmic, long toe'],
  ['extended', 'extended, by luminance'],
  ['lut', 'look-up table'],
];

type Touch = 'glare' | 'fringe' | 'vignette' | 'grain';
const TOUCHES: [Touch, string][] = [
  ['glare', 'Glare'],
  ['fringe', 'Colour fringe'],
  ['vignette', 'Vignette'],
  ['grain', 'Grain'],
];

/** An artist's own look-up table: read and checked by the server, kept beside the setup. */
function TableFile() {
  const { doc } = useStage();
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { sha256, title } = await api.addCube(file.name, await file.arrayBuffer());
      doc.getState().change({ look: { view: 'lut', lut: sha256 } });
      toast(`${title} is the view now`);
    } catch (error) {
      toast.error(`${file.name} was not brought in: ${(error as Error).message}`);
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".cube"
        className="hidden"
        data-testid="cube-input"
        onChange={(e) => {
          void bring(e.target.files?.[0]);
          e.target.value = '';
        }}
      />
      <button className="btn btn-xs mt-1.5 w-full" onClick={() => input.current?.click()}>
        <FileUp size={12} /> Look-up table (.cube) …
      </button>
    </>
  );
}

/** How the linear picture becomes one for the eye. None of it traces a ray. */
export function LookSheet() {
  const { change } = useStage().doc.getState();
  const look = useDoc((d) => d.setup.look);
  const percent = (key: Touch | 'smooth', label: string) => (
    <NumberField
      key={key}
      label={label}
      unit="%"
      value={look[key] * 100}
      step={5}
      limits={limitsTimes(LIMITS.unit, 100)}
      testId={`look-${key}`}
      onChange={(v, g) => change({ look: { [key]: v / 100 } }, g)}
    />
  );
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <div>
        <label className="flex h-6 items-center gap-2 border-b hairline">
          <span className="quiet flex-1">View</span>
          <select
            className="max-w-36 rounded-sm bg-base-200 px-1 font-semibold"
            value={look.view}
            data-testid="view"
            onChange={(e) => change({ look: { view: e.target.value } })}
          >
            {VIEWS.filter(([v]) => v !== 'lut' || look.lut).map(([v, name]) => (
              <option key={v} value={v}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <NumberField
          label="White"
          unit="K"
          value={look.white}
          step={100}
          limits={LIMITS.white}
          testId="white"
          onChange={(white, g) => change({ look: { white } }, g)}
        />
        <NumberField
          label="Contrast"
          unit="st/st"
          value={look.contrast}
          step={0.05}
          digits={2}
          limits={LIMITS.contrast}
          testId="contrast"
          onChange={(contrast, g) => change({ look: { contrast } }, g)}
        />
        {percent('smooth', 'Smoothing')}
        <TableFile />
      </div>
      <div>
        {TOUCHES.map(([key, label]) => percent(key, label))}
        <p className="quiet pt-2 text-2xs">Last touches of a lens and of film. All are off at 0.</p>
      </div>
    </div>
  );
}
