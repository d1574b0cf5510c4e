import { useQuery } from '@tanstack/react-query';
import type { Patch, Subject } from '@plinket/core';
import { useRef } from 'react';
import { CheckField, SelectField } from '../parts/Fields.tsx';
import { NumberField } from '../parts/NumberField.tsx';
import { FPS, rangeWith } from './clips.ts';
import { useStage } from './context.ts';

/** Clips of the character, the moment that is traced, and whether the lights go with the head. */
export function PoseFields({ id, subject }: { id: string; subject: Subject }) {
  const { doc, engine } = useStage();
  const { change } = doc.getState();
  const report = useQuery({ queryKey: ['character', subject.asset], queryFn: () => engine.character(subject.asset) });
  const wish = useRef(0);
  const clips = report.data?.clips ?? [];
  if (!clips.length) return null;
  const { pose } = subject;
  const clip = clips.find((c) => c.name === pose?.clip);
  const last = clip ? Math.round(clip.duration * FPS) : 0;
  const put = (next: Patch | null, g?: string) => change({ subjects: { items: { [id]: { pose: next } } } }, g);
  /** The figure moves at once; where its head is then is asked for, and the lights follow in the same step of undo. */
  const moment = async (next: { clip: string; time: number }, follow: boolean, g?: string) => {
    const mine = ++wish.current,
      gesture = g ?? `moment-${id}-${performance.now()}`;
    if (!follow) return put({ ...next, head: null }, gesture);
    put(next, gesture);
    const { head } = await engine.character(subject.asset, next, subject.head);
    if (mine === wish.current && head) put({ head: head as unknown as Patch }, gesture);
  };
  const at = (frame: number, g?: string) => {
    if (clip) void moment({ clip: clip.name, time: Number((frame / FPS).toFixed(5)) }, pose?.head !== undefined, g);
  };
  return (
    <>
      <SelectField
        label="Clip"
        value={clip?.name ?? ''}
        options={[['', 'at rest'], ...clips.map((c) => [c.name, c.name] as const)]}
        testId="clip"
        onChange={(name) => {
          if (name === '') return put(null);
          // another clip has another length
          const g = `clip-${id}-${performance.now()}`;
          if (pose?.range) put({ range: null }, g);
          return void moment({ clip: name, time: 0 }, pose?.head !== undefined, g);
        }}
      />
      {clip && pose && (
        <>
          <NumberField
            label="Frame, 24 a second"
            unit={`of ${last}`}
            value={Math.round(pose.time * FPS)}
            step={1}
            limits={[0, last]}
            testId="frame"
            onChange={at}
          />
          <input
            type="range"
            className="range range-xs w-full"
            aria-label="Frame of the clip"
            min={0}
            max={last}
            value={Math.round(pose.time * FPS)}
            onChange={(e) => at(Number(e.target.value), 'scrub')}
          />
          <div className="grid grid-cols-2 gap-x-3">
            {(['plays from', 'to'] as const).map((label, k) => (
              <NumberField
                key={label}
                label={label}
                unit=""
                value={Math.round((pose.range?.[k] ?? (k ? clip.duration : 0)) * FPS)}
                step={1}
                limits={[
                  k ? Math.round((pose.range?.[0] ?? 0) * FPS) + 1 : 0,
                  k ? last : Math.round((pose.range?.[1] ?? clip.duration) * FPS) - 1,
                ]}
                testId={k ? 'range-to' : 'range-from'}
                onChange={(frame, g) => put({ range: rangeWith(pose.range ?? [0, clip.duration], k, frame / FPS, clip.duration) }, g)}
              />
            ))}
          </div>
          <CheckField
            label="Lights follow the head"
            value={pose.head !== undefined}
            testId="follow"
            onChange={(follow) => void moment({ clip: clip.name, time: pose.time }, follow)}
          />
        </>
      )}
    </>
  );
}
