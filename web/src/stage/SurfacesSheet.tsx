import {
  orderOf,
  MATERIAL_PRESETS,
  decodeSrgb,
  encodeSrgb,
  type MaterialChange,
  type Patch,
  type Vec3,
  LIMITS,
  limitsTimes,
} from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { NumberField } from '../parts/NumberField.tsx';
import type { PartReport } from '../engine/messages.ts';
import { useDoc, useStage, useView } from './context.ts';

const hex = (c: Vec3): string =>
  '#' +
  c
    .map((v) =>
      Math.round(encodeSrgb(Math.min(1, Math.max(0, v))) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('');
const linear = (text: string): Vec3 =>
  [1, 3, 5].map((i) => Number(decodeSrgb(parseInt(text.slice(i, i + 2), 16) / 255).toFixed(4))) as Vec3;

type Percent = 'roughness' | 'metallic' | 'subsurface' | 'coat' | 'coatRoughness' | 'sheen' | 'fibres';
const LEFT: [Percent, string][] = [
  ['roughness', 'Roughness'],
  ['metallic', 'Metallic'],
  ['coat', 'Coat'],
  ['coatRoughness', 'Coat rough'],
];
const RIGHT: [Percent, string][] = [
  ['subsurface', 'Depth (skin)'],
  ['sheen', 'Sheen'],
  ['fibres', 'Fibres (hair)'],
];

function Fields({ subject, part, change }: { subject: string; part: PartReport; change: MaterialChange | undefined }) {
  const { doc } = useStage();
  const now = { ...part, ...change };
  const set = (patch: Patch, g?: string) =>
    doc.getState().change({ subjects: { items: { [subject]: { materials: { [part.name]: patch } } } } }, g);
  const percent = ([key, label]: [Percent, string]) => (
    <NumberField
      key={key}
      label={label}
      unit="%"
      value={now[key] * 100}
      step={5}
      limits={limitsTimes(LIMITS.unit, 100)}
      testId={`surface-${key}`}
      onChange={(v, g) => set({ [key]: v / 100 }, g)}
    />
  );
  return (
    <>
      <div className="flex flex-wrap gap-1 py-1">
        {Object.entries(MATERIAL_PRESETS).map(([name, preset]) => (
          <button key={name} className="btn btn-xs" onClick={() => set(preset as Patch)}>
            {name}
          </button>
        ))}
        <button
          className="btn btn-ghost btn-xs ml-auto"
          disabled={!change}
          onClick={() => doc.getState().change({ subjects: { items: { [subject]: { materials: { [part.name]: null } } } } })}
        >
          As in the file
        </button>
      </div>
      <div className="grid grid-cols-2 gap-x-5">
        <div>
          <label className="flex h-6 items-center gap-2 border-b hairline">
            <span className="quiet flex-1">Colour</span>
            <input
              type="color"
              aria-label="Base colour"
              className="h-5 w-10 bg-transparent"
              value={hex(now.base)}
              onChange={(e) => set({ base: linear(e.target.value) }, `colour-${part.name}`)}
            />
          </label>
          {LEFT.map(percent)}
        </div>
        <div>
          {RIGHT.map(percent)}
          <NumberField
            label="Light path"
            unit="mm"
            value={now.freePath[0]}
            step={0.1}
            digits={1}
            limits={LIMITS.freePath}
            onChange={(v, g) => {
              // the other channels follow in proportion
              const k = now.freePath[0] > 0 ? v / now.freePath[0] : 1;
              set({ freePath: now.freePath.map((p, i) => Number((i ? p * k : v).toFixed(3))) }, g);
            }}
          />
          <NumberField
            label="Gives light"
            unit="cd/m²"
            value={change?.emission ?? 0}
            step={10}
            limits={LIMITS.emission}
            testId="surface-emission"
            onChange={(emission, g) => set({ emission }, g)}
          />
        </div>
      </div>
    </>
  );
}

/** What the parts of the character are made of. Changes belong to the setup; the file stays as it is. */
export function SurfacesSheet() {
  const { engine } = useStage();
  const subjects = useDoc((d) => d.setup.subjects);
  const ready = useView((v) => v.frame !== undefined);
  const id = orderOf(subjects).find((s) => subjects.items[s]!.visible);
  const subject = id === undefined ? undefined : subjects.items[id]!;
  const parts = useQuery({
    queryKey: ['parts', subject?.asset, ready],
    queryFn: () => engine.parts(subject!.asset),
    enabled: subject !== undefined && ready,
    staleTime: Infinity,
  });
  const [chosen, choose] = useState<string>();
  const part = parts.data?.find((p) => p.name === chosen) ?? parts.data?.[0];
  if (!subject || id === undefined) return <p className="quiet pt-6 text-center">There is no character in the picture.</p>;
  if (!part) return <p className="quiet pt-6 text-center">Reading the parts …</p>;
  return (
    <div className="pt-1">
      <label className="flex items-center gap-2">
        <span className="caps quiet">Part</span>
        <select
          className="flex-1 rounded-sm bg-base-200 px-1 py-0.5 font-semibold"
          value={part.name}
          data-testid="part"
          onChange={(e) => choose(e.target.value)}
        >
          {parts.data!.map((p) => (
            <option key={p.name} value={p.name}>
              {p.name}
              {subject.materials[p.name] ? ' (changed)' : ''}
            </option>
          ))}
        </select>
      </label>
      <Fields key={part.name} subject={id} part={part} change={subject.materials[part.name]} />
    </div>
  );
}
