import { useQuery } from '@tanstack/react-query';
import { type DomeLight, type Patch, lightPatch, LIMITS } from '@plinket/core';
import { Plus, Trash2 } from 'lucide-react';
import { api } from '../../api/client.ts';
import { layersAway } from '../../engine/light-reader.ts';
import { fromHex, toHex } from '../../parts/colour.ts';
import { SelectField } from '../../parts/Fields.tsx';
import { useStage } from '../context.ts';
import { LightFileButton } from '../LightFiles.tsx';

type Fill = DomeLight['fill'];

/** A patch that puts one fill in the place of another: what the other had goes. */
const filled = (id: string, fill: Fill): Patch =>
  lightPatch(id, { fill: { stops: null, asset: null, name: null, layer: null, ...(fill as unknown as Patch) } });

const GRADIENT: Fill = {
  kind: 'gradient',
  stops: [
    { elevation: 70, colour: [0.6, 0.75, 1] },
    { elevation: -30, colour: [0.25, 0.2, 0.16] },
  ],
};

/** What a dome shows: the same everywhere, a gradient of stops, or a picture. */
export function DomeFill({ id, light }: { id: string; light: DomeLight }) {
  const { change } = useStage().doc.getState();
  const { fill } = light;
  const setStops = (stops: Extract<Fill, { kind: 'gradient' }>['stops']) => change(lightPatch(id, { fill: { stops } }));
  return (
    <>
      <SelectField
        label="Dome"
        value={fill.kind}
        options={[['even', 'even'], ['gradient', 'gradient'], ...(fill.kind === 'picture' ? ([['picture', 'picture']] as const) : [])]}
        testId="fill"
        onChange={(kind) => kind !== fill.kind && change(filled(id, kind === 'even' ? { kind } : GRADIENT))}
      />
      {fill.kind === 'gradient' && (
        <ul>
          {fill.stops.map((stop, i) => (
            <li key={i} className="flex h-6 items-center gap-1 border-b hairline">
              <input
                type="number"
                className="w-14 rounded-sm bg-transparent px-1 text-right font-semibold"
                aria-label={`Elevation of stop ${i + 1}`}
                value={stop.elevation}
                min={LIMITS.elevation[0]}
                max={LIMITS.elevation[1]}
                onChange={(e) =>
                  setStops(
                    fill.stops.map((s, k) => (k === i ? { ...s, elevation: Math.min(90, Math.max(-90, Number(e.target.value))) } : s)),
                  )
                }
              />
              <span className="quiet text-2xs">° up</span>
              <input
                type="color"
                className="ml-auto h-4 w-8 bg-transparent"
                aria-label={`Colour of stop ${i + 1}`}
                value={toHex(stop.colour)}
                onChange={(e) => setStops(fill.stops.map((s, k) => (k === i ? { ...s, colour: fromHex(e.target.value) } : s)))}
              />
              <button
                className="quiet"
                aria-label={`Remove stop ${i + 1}`}
                disabled={fill.stops.length <= 2}
                onClick={() => setStops(fill.stops.filter((_, k) => k !== i))}
              >
                <Trash2 size={11} />
              </button>
            </li>
          ))}
          {fill.stops.length < 8 && (
            <button
              className="quiet flex items-center gap-1 text-2xs"
              onClick={() => setStops([...fill.stops, { elevation: 0, colour: [0.4, 0.4, 0.4] }])}
            >
              <Plus size={11} /> stop
            </button>
          )}
        </ul>
      )}
      {fill.kind === 'picture' && <PictureFields id={id} fill={fill} />}
      <LightFileButton label="Picture, .hdr or .exr" accept=".hdr,.exr" light={id} />
    </>
  );
}

/** The picture of a dome, and which of its layers is used. */
function PictureFields({ id, fill }: { id: string; fill: Extract<Fill, { kind: 'picture' }> }) {
  const { change } = useStage().doc.getState();
  const layers = useQuery({
    queryKey: ['layers', fill.asset],
    staleTime: Infinity,
    queryFn: async () => layersAway(new Uint8Array(await (await fetch(api.blobUrl(fill.asset))).arrayBuffer()), fill.name),
  });
  const names = layers.data ?? [fill.layer];
  return (
    <>
      <p className="quiet truncate text-2xs" title={fill.name}>
        {fill.name}
      </p>
      {names.length > 1 && (
        <SelectField
          label="Layer"
          value={fill.layer}
          options={names.map((n) => [n, n === '' ? 'without a name' : n] as const)}
          testId="layer"
          onChange={(layer) => change(lightPatch(id, { fill: { layer } }))}
        />
      )}
    </>
  );
}
