import { formatStops, type Light } from '@plinket/core';
import { Ear, Eye, EyeOff, Plus } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { swatch } from '../parts/colour.ts';
import { colourOf, letterOf } from '../parts/identity.ts';
import { useDoc, useStage, useView } from './context.ts';
import { addLightPatch, lightPatch, stopsPatch } from './moves.ts';

const degrees = (v: number): string => `${Math.round(v)}°`.replace('-', '−');
const placeWords = (light: Light): string =>
  light.kind === 'dome'
    ? 'the same from everywhere'
    : light.kind === 'glow'
      ? 'surfaces that glow'
      : `round ${degrees(light.place.azimuth)} · up ${degrees(light.place.elevation)} · ${light.place.distance.toFixed(2)} m`;
const sourceWords = (light: Light): string =>
  light.kind !== 'rectangle' ? 'even' : `${Math.round(light.width * 100)} × ${Math.round(light.height * 100)} cm`;

function Share({ id }: { id: string }) {
  const thumb = useView((v) => v.thumbs.find((t) => t.id === id));
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!thumb || !canvas.current) return;
    canvas.current.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(thumb.rgba), thumb.width, thumb.height), 0, 0);
  }, [thumb]);
  return <canvas ref={canvas} width={164} height={84} className="block h-[84px] w-full bg-black" aria-hidden data-testid={`thumb-${id}`} />;
}

function ShareCard({ id, index, light }: { id: string; index: number; light: Light }) {
  const { doc, view } = useStage();
  const selected = useView((v) => v.selected === id);
  const solo = useView((v) => v.solo === id);
  const { change } = doc.getState();
  const letter = letterOf(index);
  const level = (by: number) => change(stopsPatch(id, light, by), `level-${id}`);
  return (
    <li className="relative w-[166px] shrink-0 pt-4" data-testid={`card-${id}`}>
      <span
        className="absolute top-0.5 left-2.5 grid h-[15px] w-6 place-items-center rounded-t-[3px] text-2xs font-bold text-black"
        style={{ background: colourOf(index) }}
      >
        {letter}
      </span>
      <div
        className={`rounded border bg-base-100 ${selected ? 'border-base-content' : 'hairline'} ${light.on ? '' : 'opacity-55'}`}
        style={{ borderTopColor: colourOf(index) }}
      >
        <button
          className="block w-full text-left"
          aria-pressed={selected}
          aria-label={`${letter} ${light.name}`}
          onClick={() => view.setState({ selected: selected ? undefined : id, sheet: 'light' })}
        >
          <Share id={id} />
          <span className="flex items-baseline justify-between px-2 pt-1">
            <b className="truncate">{light.name}</b>
            <span className="quiet text-2xs">{sourceWords(light)}</span>
          </span>
        </button>
        <div className="flex items-center gap-1 px-2">
          <button
            className="quiet px-0.5 text-base leading-none hover:text-base-content"
            aria-label={`${light.name} a third of a stop down`}
            onClick={() => level(-1 / 3)}
          >
            −
          </button>
          <span className="min-w-8 text-center text-base font-semibold" data-testid={`stops-${id}`}>
            {formatStops(light.stops)}
          </span>
          <span className="quiet text-2xs">st</span>
          <button
            className="quiet px-0.5 text-base leading-none hover:text-base-content"
            aria-label={`${light.name} a third of a stop up`}
            onClick={() => level(1 / 3)}
          >
            +
          </button>
          <span className="ml-auto flex items-center gap-1 text-2xs">
            <i className="inline-block h-2.5 w-2.5 rounded-[2px]" style={{ background: swatch(light.kelvin) }} />
            {Math.round(light.kelvin)} K
          </span>
        </div>
        <div className="flex items-center justify-between px-2 pb-1 text-2xs">
          <span className="quiet truncate">{placeWords(light)}</span>
        </div>
      </div>
      <div className="absolute top-[19px] right-1 flex gap-0.5">
        <button
          className={`rounded-sm p-1 ${solo ? 'bg-warning text-black' : 'bg-black/55 text-white/85 hover:bg-black/80'}`}
          aria-pressed={solo}
          aria-label={`${light.name} alone`}
          title="Solo (Enter)"
          onClick={() => view.setState({ solo: solo ? undefined : id })}
        >
          <Ear size={13} />
        </button>
        <button
          className="rounded-sm bg-black/55 p-1 text-white/85 hover:bg-black/80"
          aria-pressed={light.on}
          aria-label={`${light.name} ${light.on ? 'off' : 'on'}`}
          title="Off and on (Backspace)"
          onClick={() => change(lightPatch(id, { on: !light.on }))}
        >
          {light.on ? <Eye size={13} /> : <EyeOff size={13} />}
        </button>
      </div>
    </li>
  );
}

/** The lights as cards, each with its own live picture. */
export function Shares() {
  const { doc, view } = useStage();
  const lights = useDoc((d) => d.setup.lights);
  const add = () => {
    const { patch, id } = addLightPatch(doc.getState().setup);
    doc.getState().change(patch);
    view.setState({ selected: id, sheet: 'light' });
  };
  return (
    <section aria-label="Shares" className="border-t hairline bg-base-200">
      <ol className="flex gap-2.5 overflow-x-auto px-3 pt-1 pb-2">
        {lights.order.map((id, i) => (
          <ShareCard key={id} id={id} index={i} light={lights.items[id]!} />
        ))}
        <li className="w-[92px] shrink-0 pt-4">
          <button
            className="quiet grid h-[155px] w-full place-items-center rounded border border-dashed hairline hover:text-base-content"
            onClick={add}
          >
            <span className="grid place-items-center gap-1">
              <Plus size={16} />
              Add light
            </span>
          </button>
        </li>
      </ol>
    </section>
  );
}
