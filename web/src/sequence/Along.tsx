// A value of the light along the shots: a curve whose dots are the shots, each to be dragged, and a run of them led from one value to another.
import type { Along as Dots } from '@plinket/contract';
import { alongRounded, alongValues, EASES, ramp, type AlongValue, type Ease, type Sequence, type Setup } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { curveMonotoneX, line, scaleLinear, scalePoint } from 'd3';
import { X } from 'lucide-react';
import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { toast } from 'sonner';
import { api, ApiProblem } from '../api/client.ts';
import { useSize } from '../parts/size.ts';
import { before, extent, putAll, type AlongPorts, type Dot, type Wanted } from './along.ts';
import { newId } from '../parts/new-id.ts';

const HEIGHT = 150,
  EDGE = { left: 56, right: 24, top: 14, bottom: 26 };
const TICKS = 5;
/** Room of a shot's code, px: where there is less, some are left out. */
const CODE = 64;

const PORTS: AlongPorts = {
  patch: async (shot, revision, patch) => (await api.patchSetup(shot, { id: newId(), revision, patch })).revision,
  revision: async (shot) => (await api.setup(shot)).revision,
  stale: (error) => error instanceof ApiProblem && error.problem.status === 412,
};

const shown = ({ unit, step }: AlongValue, value: number): string =>
  `${value.toFixed(step < 0.1 ? 2 : step < 1 ? 1 : 0).replace('-', '−')} ${unit}`;

/** So often it is asked what the shots have, ms: others change them, too. */
const EVERY_MS = 15_000;

/** Values of the shots as they are, and as the hand wants them meanwhile. */
function useAlong(id: string, value: AlongValue, codes: (shot: string) => string) {
  const queries = useQueryClient();
  const key = ['along', id, value.path];
  const [wanted, setWanted] = useState<Wanted>(new Map());
  // what the hand wants while the shots are still being changed comes next
  const next = useRef<Map<string, number>>(undefined);
  const [busy, setBusy] = useState(false);
  const asked = useQuery({
    queryKey: key,
    queryFn: () => api.along(id, value.path),
    staleTime: 0,
    refetchInterval: busy ? false : EVERY_MS,
  });
  const known = (): Dots | undefined => queries.getQueryData(key);
  const send = async (to: Wanted): Promise<void> => {
    setWanted((now) => new Map([...now, ...to]));
    if (next.current) return void to.forEach((v, shot) => next.current!.set(shot, v));
    next.current = new Map();
    setBusy(true);
    // what is on its way was asked before this
    await queries.cancelQueries({ queryKey: key });
    let now = known()?.shots ?? [];
    const first = new Map<string, number>(),
      stayed = new Map<string, string>();
    for (let going: Wanted = to; going.size > 0;) {
      for (const [shot, was] of before(now, going)) if (!first.has(shot)) first.set(shot, was);
      const put = await putAll(value, now, going, PORTS);
      now = put.dots;
      for (const [shot, why] of put.stayed) stayed.set(shot, why);
      going = next.current;
      next.current = new Map();
    }
    next.current = undefined;
    queries.setQueryData(key, { ...known(), shots: now });
    setWanted(new Map());
    setBusy(false);
    // what the shots depart in is asked for anew
    void queries.invalidateQueries({ queryKey: ['shots', id] });
    if (stayed.size) toast.error([...stayed].map(([shot, why]) => `${codes(shot)} stays: ${why}`).join('; '), { duration: 20_000 });
    const changed = [...first].filter(([shot, was]) => now.find((d) => d.id === shot)?.value !== was);
    if (changed.length)
      toast(`${value.words} changed in ${changed.length === 1 ? codes(changed[0]![0]) : `${changed.length} shots`}`, {
        duration: 10_000,
        action: { label: 'Undo', onClick: () => void send(new Map(changed)) },
      });
  };
  return { asked, dots: asked.data?.shots ?? [], wanted, setWanted, send, busy };
}

function Chart({
  value,
  base,
  dots,
  wanted,
  want,
  send,
  codes,
}: {
  value: AlongValue;
  base: number | undefined;
  dots: readonly Dot[];
  wanted: Wanted;
  want(to: Wanted): void;
  send(to: Wanted): void;
  codes(shot: string): string;
}) {
  const [ref, { width }] = useSize<HTMLDivElement>({ width: 1200, height: HEIGHT });
  const drag = useRef<{ shot: string; y: number; from: number; perPixel: number }>(undefined);
  const at = (d: Dot): number | undefined => wanted.get(d.id) ?? d.value;
  // the scale stays as it is under a drag
  const still = extent(value, [...dots.flatMap((d) => d.value ?? []), ...(base === undefined ? [] : [base])]);
  const x = scalePoint(
      dots.map((d) => d.id),
      [EDGE.left, Math.max(EDGE.left + 1, width - EDGE.right)],
    ).padding(0.5),
    y = scaleLinear(still, [HEIGHT - EDGE.bottom, EDGE.top]);
  const there = dots.filter((d) => at(d) !== undefined);
  const path =
    line<Dot>()
      .x((d) => x(d.id)!)
      .y((d) => y(at(d)!))
      .curve(curveMonotoneX)(there) ?? '';
  const every = Math.max(1, Math.ceil((dots.length * CODE) / Math.max(1, width)));
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (d) want(new Map([[d.shot, alongRounded(value, d.from - (e.clientY - d.y) * d.perPixel)]]));
  };
  const end = (keep: boolean) => {
    if (drag.current) drag.current = undefined;
    else return;
    if (keep) send(wanted);
    else want(new Map());
  };
  const keys = (e: KeyboardEvent, d: Dot) => {
    if (e.key === 'Escape') return end(false);
    if (e.key !== 'ArrowUp' && e.key !== 'ArrowDown') return;
    e.preventDefault();
    const by = value.step * (e.shiftKey ? 10 : 1) * (e.key === 'ArrowUp' ? 1 : -1);
    send(new Map([[d.id, alongRounded(value, at(d)! + by)]]));
  };
  return (
    <div ref={ref} className="w-full">
      <svg width={width} height={HEIGHT} className="block select-none" role="group" aria-label={`${value.words} along the shots`}>
        {y.ticks(TICKS).map((tick) => (
          <g key={tick}>
            <line x1={EDGE.left} x2={width - EDGE.right} y1={y(tick)} y2={y(tick)} stroke="currentColor" opacity={0.12} />
            <text x={EDGE.left - 8} y={y(tick) + 4} textAnchor="end" fontSize={11} fill="currentColor" opacity={0.7}>
              {String(tick).replace('-', '−')}
            </text>
          </g>
        ))}
        {base !== undefined && (
          <line
            x1={EDGE.left}
            x2={width - EDGE.right}
            y1={y(base)}
            y2={y(base)}
            stroke="currentColor"
            strokeDasharray="2 4"
            data-testid="along-base"
          >
            <title>The sequence’s own: {shown(value, base)}</title>
          </line>
        )}
        <path d={path} fill="none" stroke="currentColor" strokeWidth={1.5} />
        {there.map((d, i) => (
          <g key={d.id}>
            {i % every === 0 && (
              <text x={x(d.id)} y={HEIGHT - 8} textAnchor="middle" fontSize={11} fill="currentColor" opacity={0.7}>
                {codes(d.id)}
              </text>
            )}
            <circle
              cx={x(d.id)}
              cy={y(at(d)!)}
              r={6}
              className="cursor-ns-resize touch-none outline-offset-2"
              fill={at(d) === base ? 'var(--color-base-100)' : 'currentColor'}
              stroke="currentColor"
              strokeWidth={1.5}
              role="slider"
              tabIndex={0}
              aria-label={`${value.words} in ${codes(d.id)}`}
              aria-valuenow={at(d)}
              aria-valuemin={value.least}
              aria-valuemax={value.most}
              aria-valuetext={shown(value, at(d)!)}
              data-testid={`along-${codes(d.id)}`}
              onPointerDown={(e) => {
                if (e.button !== 0) return;
                e.currentTarget.setPointerCapture(e.pointerId);
                drag.current = {
                  shot: d.id,
                  y: e.clientY,
                  from: at(d)!,
                  perPixel: (still[1] - still[0]) / (HEIGHT - EDGE.top - EDGE.bottom),
                };
              }}
              onPointerMove={move}
              onPointerUp={() => end(true)}
              onPointerCancel={() => end(false)}
              onKeyDown={(e) => keys(e, d)}
            >
              <title>
                {codes(d.id)}: {shown(value, at(d)!)}
              </title>
            </circle>
          </g>
        ))}
      </svg>
    </div>
  );
}

/** Leads a run of shots from the first one's value to the last one's. */
function Run({
  value,
  dots,
  codes,
  send,
}: {
  value: AlongValue;
  dots: readonly Dot[];
  codes(shot: string): string;
  send(to: Wanted): void;
}) {
  const able = dots.filter((d) => d.value !== undefined);
  const [ends, setEnds] = useState<{ from?: string; to?: string }>({});
  const [ease, setEase] = useState<Ease>('even');
  const from = able.find((d) => d.id === ends.from) ?? able[0],
    to = able.find((d) => d.id === ends.to) ?? able.at(-1);
  if (!from || !to || able.length < 3) return null;
  const [a, b] = [able.indexOf(from), able.indexOf(to)].sort((p, q) => p - q) as [number, number];
  const run = able.slice(a, b + 1);
  const lead = () => {
    const row = ramp(value, run[0]!.value!, run.at(-1)!.value!, run.length, ease);
    send(new Map(run.map((d, i) => [d.id, row[i]!])));
  };
  const choice = (name: string, now: string, set: (shot: string) => void) => (
    <select className="select w-24 select-xs" aria-label={name} value={now} onChange={(e) => set(e.target.value)}>
      {able.map((d) => (
        <option key={d.id} value={d.id}>
          {codes(d.id)}
        </option>
      ))}
    </select>
  );
  return (
    <span className="flex items-center gap-1.5">
      <span className="quiet">lead it from</span>
      {choice('First shot of the run', from.id, (shot) => setEnds((e) => ({ ...e, from: shot })))}
      <span className="quiet">to</span>
      {choice('Last shot of the run', to.id, (shot) => setEnds((e) => ({ ...e, to: shot })))}
      <select className="select w-18 select-xs" aria-label="How it goes" value={ease} onChange={(e) => setEase(e.target.value as Ease)}>
        {EASES.map((e) => (
          <option key={e}>{e}</option>
        ))}
      </select>
      <button className="btn btn-xs" disabled={run.length < 3} onClick={lead}>
        Lead
      </button>
    </span>
  );
}

function Value({ id, document, value }: { id: string; document: Sequence; value: AlongValue }) {
  const codes = (shot: string) => document.shots.items[shot]?.code ?? 'a shot';
  const { asked, dots, wanted, setWanted, send, busy } = useAlong(id, value, codes);
  if (asked.isPending) return <p className="quiet p-3">Asking each shot …</p>;
  if (asked.isError) return <p className="p-3 text-warning">{asked.error.message}</p>;
  const [held] = wanted.size === 1 ? [...wanted] : [];
  return (
    <>
      <div className="flex h-6 items-center gap-3">
        <span className="min-w-40" role="status" data-testid="along-said">
          {busy ? 'changing the shots …' : held ? `${codes(held[0])}: ${shown(value, held[1])}` : ''}
        </span>
        <span className="ml-auto" />
        <Run value={value} dots={dots} codes={codes} send={(to) => void send(to)} />
      </div>
      <Chart value={value} base={asked.data.base} dots={dots} wanted={wanted} want={setWanted} send={(to) => void send(to)} codes={codes} />
    </>
  );
}

/** Over the board: one value of the light along all shots. Filled dots depart from the sequence. */
export function Along({ id, document, setup, leave }: { id: string; document: Sequence; setup: Setup; leave(): void }) {
  const values = useMemo(() => alongValues(setup), [setup]);
  const [path, setPath] = useState(values[0]?.path);
  const value = values.find((v) => v.path === path) ?? values[0];
  if (!value) return null;
  return (
    <section aria-label="Along the sequence" className="mx-8 mb-4 rounded border hairline bg-white px-3 pt-2">
      <div className="flex items-center gap-2">
        <h2 className="caps">Along the sequence</h2>
        <select className="select w-48 select-xs" aria-label="Which value" value={value.path} onChange={(e) => setPath(e.target.value)}>
          {values.map((v) => (
            <option key={v.path} value={v.path}>
              {v.words}
            </option>
          ))}
        </select>
        <span className="quiet text-2xs">
          in {value.unit}; a dot is a shot: drag it, or arrow keys. Filled: it departs from the sequence.
        </span>
        <button className="btn ml-auto btn-ghost btn-xs btn-square" aria-label="Close what goes along" onClick={leave}>
          <X size={14} />
        </button>
      </div>
      <Value key={value.path} id={id} document={document} value={value} />
    </section>
  );
}
