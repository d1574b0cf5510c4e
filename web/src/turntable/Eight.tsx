import { framesRound, patternName, wallPaper } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import type { TurnMoment } from '../engine/turn-messages.ts';
import { Heading } from '../parts/Fields.tsx';
import { sheetPdf, sheetPng } from '../parts/print.ts';
import { save } from '../parts/save.ts';
import { angleAt, drawn, nearestFrame, useDoc, useRoom, useTurn } from './state.ts';
import { EIGHT, eightAngles, planOf } from './work.ts';

const patternWords = (m: TurnMoment | undefined): string => (m?.pattern ? patternName(m.pattern) : '–');
const ratioWords = (m: TurnMoment | undefined): string => (m?.stops === undefined ? '–' : `${(2 ** m.stops).toFixed(1)} : 1`);

/** Eight angles, looked at before anything long; as a contact sheet. */
export function Eight() {
  const room = useRoom();
  const setup = useDoc((d) => d.setup),
    plan = planOf(setup);
  const { stills, moments, work } = useTurn((t) => t);
  const [busy, setBusy] = useState(false);
  const wanted = framesRound(plan, EIGHT),
    whole = wanted.every((n) => stills.has(n));
  const sheet = (kind: 'png' | 'pdf') => {
    setBusy(true);
    const read = new Map(moments.map((m) => [m.frame, m]));
    const at = wanted.map((n) => nearestFrame(read, n, plan.frames));
    const svg = wallPaper(
      `${setup.name}, turntable`,
      wanted.map((n) => {
        const still = stills.get(n)!;
        return {
          name: `${Math.round(angleAt(plan, n))}°`,
          under: `frame ${n}`,
          picture: drawn(still),
          width: still.width,
          height: still.height,
        };
      }),
      [
        { label: 'Pattern', values: at.map(patternWords), differs: at.map(() => false) },
        { label: 'Ratio', values: at.map(ratioWords), differs: at.map(() => false) },
      ],
    );
    (kind === 'pdf' ? sheetPdf(svg) : sheetPng(svg))
      .then((file) => save(file, `${setup.name} eight angles.${kind}`))
      .catch((error: Error) => toast.error(`No sheet was made: ${error.message}`))
      .finally(() => setBusy(false));
  };
  return (
    <section className="flex flex-col gap-1" aria-label="Eight angles">
      <Heading>Eight angles</Heading>
      <ol className="grid grid-cols-8 gap-1">
        {wanted.map((n) => {
          const still = stills.get(n);
          return (
            <li key={n}>
              <button
                className="grid w-full place-items-center overflow-hidden rounded-sm border hairline bg-base-200"
                style={{ aspectRatio: setup.camera.aspect }}
                aria-label={`Frame ${n}`}
                onClick={() => room.turn.setState({ at: n, playing: false })}
              >
                {still ? (
                  <img src={drawn(still)} alt="" data-testid="angle" />
                ) : (
                  <span className="quiet text-2xs">{Math.round(angleAt(plan, n))}°</span>
                )}
              </button>
            </li>
          );
        })}
      </ol>
      <div className="flex gap-1">
        <button className="btn btn-xs" disabled={work?.what === 'eight angles'} onClick={() => void eightAngles(room)}>
          {whole ? 'Trace again' : 'Trace eight'}
        </button>
        <button className="btn btn-xs" disabled={!whole || busy} onClick={() => sheet('png')}>
          Sheet PNG
        </button>
        <button className="btn btn-xs" disabled={!whole || busy} onClick={() => sheet('pdf')}>
          Sheet PDF
        </button>
      </div>
    </section>
  );
}
