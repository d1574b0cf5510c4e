import { TONE_BINS, TONE_COLOURS, TONE_RANGE } from '@plinket/core';
import { area, curveMonotoneX, scaleLinear, scaleSqrt } from 'd3';
import { useMemo } from 'react';
import { useView } from './context.ts';

const WIDTH = 1000,
  HEIGHT = 26;

const x = scaleLinear([-TONE_RANGE, TONE_RANGE], [0, WIDTH]);
const TICKS = x.ticks(13);

/** How the tones lie, as a curve over the stops. */
function Tones() {
  const bins = useView((v) => v.frame?.bins);
  const path = useMemo(() => {
    if (!bins) return '';
    // the ends hold everything beyond them and would flatten all else
    const inner = [...bins].map((v, i) => (i === 0 || i === TONE_BINS - 1 ? 0 : v));
    const y = scaleSqrt([0, Math.max(1, ...inner)], [HEIGHT, 1]);
    return (
      area<number>()
        .x((_, i) => x(-TONE_RANGE + ((i + 0.5) / TONE_BINS) * 2 * TONE_RANGE))
        .y0(HEIGHT)
        .y1((v) => y(v))
        .curve(curveMonotoneX)(inner) ?? ''
    );
  }, [bins]);
  return <path d={path} fill="oklch(72% 0 0)" />;
}

/** A share of the picture in percent; `much`: from where on it is a warning. */
function Percent({ of, much, testid }: { of: 'clipped' | 'crushed'; much?: number; testid?: string }) {
  const share = useView((v) => v.frame?.[of] ?? 0);
  const loud = much !== undefined && share > much;
  return (
    <dd className={loud ? 'font-semibold text-warning' : 'font-semibold'} data-testid={testid}>
      {(share * 100).toFixed(1)} %
    </dd>
  );
}

/** How the picture's tones lie, in stops around middle grey, and what is clipped. */
export function Ruler() {
  const tones = useView((v) => v.mode === 'tones');
  return (
    <section aria-label="Tones in stops around middle grey" className="flex h-14 items-end gap-8 bg-[oklch(37%_0_0)] px-5 pb-1">
      <div className="relative h-full flex-1">
        <svg viewBox={`0 0 ${WIDTH} 50`} preserveAspectRatio="none" className="h-full w-full overflow-visible" aria-hidden>
          <Tones />
          <line x1={0} x2={WIDTH} y1={HEIGHT} y2={HEIGHT} stroke="oklch(60% 0 0)" vectorEffect="non-scaling-stroke" />
          {tones &&
            TONE_COLOURS.map(([r, g, b], i) => (
              // each stop's colour under the axis: the legend of the picture
              <rect
                key={i}
                x={Math.max(0, x(i - TONE_RANGE - 0.5))}
                width={Math.min(WIDTH, x(i - TONE_RANGE + 0.5)) - Math.max(0, x(i - TONE_RANGE - 0.5))}
                y={HEIGHT}
                height={7}
                fill={`rgb(${r} ${g} ${b})`}
              />
            ))}
          {TICKS.map((t) => (
            <line
              key={t}
              x1={x(t)}
              x2={x(t)}
              y1={HEIGHT}
              y2={HEIGHT + (t === 0 ? 6 : 3)}
              stroke="oklch(70% 0 0)"
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
        {TICKS.map((t) => (
          <span
            key={t}
            className="quiet absolute bottom-0 -translate-x-1/2 text-2xs leading-none"
            style={{ left: `${(x(t) / WIDTH) * 100}%` }}
          >
            {t > 0 ? `+${t}` : String(t).replace('-', '−')}
          </span>
        ))}
      </div>
      <dl className="w-32 shrink-0 text-right text-2xs leading-4">
        <div className="flex justify-between">
          <dt className="quiet">clipped</dt>
          <Percent of="clipped" much={0.002} testid="clipped" />
        </div>
        <div className="flex justify-between">
          <dt className="quiet">6 stops under</dt>
          <Percent of="crushed" />
        </div>
      </dl>
    </section>
  );
}
