import { framesOf } from '@plinket/core';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { Heading, SelectField } from '../parts/Fields.tsx';
import { save } from '../parts/save.ts';
import { bytesWords, secondsWords } from '../parts/amounts.ts';
import { bytesAPixel, drawn, movieSize, useDoc, useRoom, useTurn, type Room } from './state.ts';
import { turnOf } from '../lab/sendable.ts';
import { SendJob } from '../lab/SendJob.tsx';
import { planOf, playThrough, traced } from './work.ts';

const HEIGHTS = ['180', '270', '360', '540', '720'],
  SAMPLES = ['4', '8', '16', '32', '64'];

/** Traces all frames in order and joins them; nothing is kept of one that was stopped. */
async function makeMovie(room: Room, height: number, samples: number): Promise<Blob | undefined> {
  const { MovieWriter } = await import('./movie.ts');
  const { setup } = room.doc.getState(),
    plan = planOf(setup),
    size = movieSize(setup, height);
  const writer = await MovieWriter.open(size.width, size.height, plan.fps);
  const all = Array.from({ length: framesOf(plan) }, (_, i) => i + 1);
  // the encoder takes one after the other
  let queue: Promise<void> = Promise.resolve();
  const whole = await traced(room, 'movie', setup, all, { ...size, samples, shallow: false }, (frame) => {
    queue = queue.then(() => writer.add(frame));
    // what cannot be encoded need not be traced
    queue.catch(() => room.turn.getState().work?.stop());
  });
  try {
    await queue;
    if (whole) return await writer.finish();
  } finally {
    if (!whole) await writer.cancel();
  }
  return undefined;
}

/** The movie, and the command that makes frames as files. */
export function Movie({ frames }: { frames: number }) {
  const room = useRoom();
  const setup = useDoc((d) => d.setup),
    id = useDoc((d) => d.id);
  const { work, stills, perSample } = useTurn((t) => t);
  const [height, setHeight] = useState('360'),
    [samples, setSamples] = useState('16');
  const [sending, setSending] = useState(false);
  const size = movieSize(setup, Number(height));
  const still = [...stills.values()][0];
  const pixel = useMemo(() => still && bytesAPixel(drawn(still), still), [still]);
  const pixels = frames * size.width * size.height;
  const make = () => {
    makeMovie(room, Number(height), Number(samples))
      .then((movie) => {
        if (!movie) return void (room.turn.getState().failed ?? toast('The movie was stopped; nothing of it is kept.'));
        save(movie, `${setup.name}.webm`);
        void playThrough(room, false);
        return undefined;
      })
      .catch((error: Error) => toast.error(`No movie was made: ${error.message}`));
  };
  const command = `npx plinket turn ${id} --out turn/name.png --size ${size.width}x${size.height} --samples ${samples} --movie name.mp4`;
  return (
    <section className="flex flex-col gap-1" aria-label="Movie">
      <Heading>Movie</Heading>
      <div className="grid grid-cols-2 gap-x-4">
        <SelectField
          label="Height"
          value={height}
          options={HEIGHTS.map((h) => [h, `${movieSize(setup, Number(h)).width} × ${h}`])}
          onChange={setHeight}
        />
        <SelectField label="Samples" value={samples} options={SAMPLES.map((s) => [s, s])} onChange={setSamples} />
      </div>
      <p className="quiet text-2xs">
        {perSample === undefined
          ? 'Look at eight angles before anything long: then it is known how long it takes, too.'
          : `About ${secondsWords((perSample * pixels * Number(samples)) / 1000)} by what was traced last${pixel === undefined ? '' : `; as PNG files about ${bytesWords(pixel * pixels)}`}.`}
      </p>
      <div className="flex gap-2">
        <button className="btn btn-sm" disabled={work?.what === 'movie'} onClick={make}>
          Make a WebM
        </button>
        <button
          className="btn btn-sm"
          disabled={!setup.turntable}
          title={
            setup.turntable ? 'Have its frames rendered by the Lab, as files' : 'Change something of the plan first: then the setup has one'
          }
          onClick={() => setSending(true)}
        >
          Send to the Lab
        </button>
      </div>
      {sending && <SendJob name={setup.name} sendables={[turnOf(id, planOf(setup))]} like={setup} leave={() => setSending(false)} />}
      <p className="quiet text-2xs">Frames as PNG or EXR files, and H.264, by the command line; begun again it goes on:</p>
      <code className="rounded bg-base-200 p-1.5 text-2xs break-all select-all" data-testid="turn-command">
        {command}
      </code>
    </section>
  );
}
