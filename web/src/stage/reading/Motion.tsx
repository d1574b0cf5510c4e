import { firstInSight, lightsForOnePose, patternName, type Patch, type Pattern } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { line, scaleLinear, scaleLog } from 'd3';
import type { MomentReport } from '../../engine/messages.ts';
import { FPS } from '../clips.ts';
import { useDoc, useStage, useView } from '../context.ts';
import type { Box } from '../room.ts';
import { NAMELESS, TONES } from './direction-paper.ts';
import { breaksOf, timesOf } from './motion.ts';

const tone = (p: Pattern | undefined): string => `rgb(${(p ? TONES[p] : NAMELESS).join(' ')})`;
const frameOf = (time: number): number => Math.round(time * FPS);

/** Room of the strip of patterns and of the chart's margins, pixels. */
const STRIP = 15,
  LEFT = 26,
  FOOT = 13;

interface ChartProps extends Box {
  moments: readonly MomentReport[];
  from: number;
  to: number;
  now: number;
  go(time: number): void;
}

/** Pattern, ratio and what direct light would clip, over the frames; the playhead can be put anywhere on it. */
function Chart({ width, height, moments, from, to, now, go }: ChartProps) {
  const x = scaleLinear([from, to], [LEFT, width - 4]),
    ratio = scaleLog([1, 16], [height - FOOT, STRIP + 6])
      .base(2)
      .clamp(true),
    over = scaleLinear([0, 0.1], [height - FOOT, STRIP + 6]).clamp(true);
  const step = moments.length > 1 ? x(moments[1]!.time) - x(moments[0]!.time) : width - LEFT;
  const ratioPath = line<MomentReport>()
    .defined((m) => m.ratio !== undefined)
    .x((m) => x(m.time))
    .y((m) => ratio(m.ratio!))(moments);
  const overPath = line<MomentReport>()
    .x((m) => x(m.time))
    .y((m) => over(m.over))(moments);
  return (
    <svg
      width={width}
      height={height}
      className="shrink-0 cursor-pointer text-2xs"
      onClick={(e) => {
        const t = x.invert(e.clientX - e.currentTarget.getBoundingClientRect().left);
        const nearest = moments.reduce<MomentReport | undefined>(
          (b, m) => (!b || Math.abs(m.time - t) < Math.abs(b.time - t) ? m : b),
          undefined,
        );
        if (nearest) go(nearest.time);
      }}
      role="img"
      aria-label="Pattern, ratio and clipping over the motion"
      data-testid="motion-chart"
    >
      {moments.map((m) => (
        <rect
          key={m.time}
          x={x(m.time) - step / 2}
          y={0}
          width={step + 0.5}
          height={STRIP}
          fill={tone(m.pattern)}
          data-pattern={m.pattern ?? ''}
        >
          <title>{`frame ${frameOf(m.time)}: ${m.pattern ? patternName(m.pattern) : 'no name'}${m.ratio ? `, ${m.ratio.toFixed(1)} : 1` : ''}`}</title>
        </rect>
      ))}
      {[1, 2, 4, 8].map((r) => (
        <g key={r}>
          <line x1={LEFT} x2={width} y1={ratio(r)} y2={ratio(r)} stroke="white" strokeOpacity={0.12} />
          <text x={LEFT - 4} y={ratio(r) + 3} textAnchor="end" fill="currentColor" fillOpacity={0.65}>
            {r}:1
          </text>
        </g>
      ))}
      {overPath && <path d={overPath} fill="none" stroke="var(--color-error)" strokeWidth={1.2} />}
      {ratioPath && <path d={ratioPath} fill="none" stroke="white" strokeWidth={1.5} />}
      {[from, (from + to) / 2, to].map((t, i) => (
        <text
          key={i}
          x={x(t)}
          y={height - 2}
          textAnchor={i === 0 ? 'start' : i === 2 ? 'end' : 'middle'}
          fill="currentColor"
          fillOpacity={0.65}
        >
          {frameOf(t)}
        </text>
      ))}
      <line x1={x(now)} x2={x(now)} y1={0} y2={height - FOOT} stroke="var(--color-primary)" strokeWidth={1.5} />
    </svg>
  );
}

/** The reading over the frames of the clip, with the frame where the pattern breaks, and lights that are for one pose only. */
export function Motion({ width, height, nameOf }: Box & { nameOf: (id: string) => string }) {
  const { doc, view, engine } = useStage();
  const setup = useDoc((d) => d.setup);
  const motion = useView((v) => v.motion);
  const by = useView((v) => v.motionBy);
  const id = firstInSight(setup),
    subject = id === undefined ? undefined : setup.subjects.items[id];
  const report = useQuery({
    queryKey: ['character', subject?.asset],
    queryFn: () => engine.character(subject!.asset),
    enabled: subject !== undefined,
  });
  const pose = subject?.pose,
    clip = report.data?.clips.find((c) => c.name === pose?.clip);
  if (!subject || id === undefined || !pose || !clip)
    return (
      <div className="flex flex-col items-start gap-1 pt-1">
        <p className="quiet">
          {report.data && !report.data.clips.length
            ? `${subject?.name ?? 'The figure'} has no motion.`
            : 'Choose a clip: its frames are read here.'}
        </p>
        {!!report.data?.clips.length && (
          <button className="btn btn-xs" onClick={() => view.setState({ sheet: 'character' })}>
            Character
          </button>
        )}
      </div>
    );
  const [from, to] = pose.range ?? [0, clip.duration];
  const going = motion !== undefined && !motion.done;
  const go = async (time: number) => {
    const gesture = `motion-${id}-${time}`;
    doc.getState().change({ subjects: { items: { [id]: { pose: { time } } } } }, gesture);
    if (!pose.head) return;
    const { head } = await engine.character(subject.asset, { clip: pose.clip, time }, subject.head);
    if (head) doc.getState().change({ subjects: { items: { [id]: { pose: { head: head as unknown as Patch } } } } }, gesture);
  };
  const moments = motion?.moments ?? [],
    breaks = breaksOf(moments),
    once = motion?.done ? lightsForOnePose(moments) : [];
  const words = [
    ...breaks.map(
      (b) =>
        `Frame ${frameOf(b.time)}: ${b.from ? patternName(b.from).toLowerCase() : 'no name'} → ${b.to ? patternName(b.to).toLowerCase() : 'no name'}.`,
    ),
    ...once.map((light) => `${nameOf(light)} is a light for one pose.`),
  ];
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col" data-testid="motion">
      {moments.length > 0 && (
        <Chart width={width} height={height - 58} moments={moments} from={from} to={to} now={pose.time} go={(t) => void go(t)} />
      )}
      <div className="flex items-center gap-2 pt-1">
        <button
          className="btn btn-xs h-6"
          onClick={() => {
            if (!going) {
              view.setState({ motionBy: setup.lights });
              return engine.readOver(timesOf(from, to, FPS));
            }
            engine.readOver([]);
            view.setState({ motion: { ...motion, done: true } });
          }}
        >
          {going ? 'Stop' : moments.length ? 'Read again' : 'Read the motion'}
        </button>
        {going && <progress className="progress w-24" value={moments.length} max={motion.of} aria-label="Moments read" />}
        <span className="quiet min-w-0 truncate">
          {motion?.failed
            ? `Not read: ${motion.failed}`
            : moments.length
              ? by !== setup.lights
                ? 'lights have changed since: read again'
                : 'white: ratio; red: skin that direct light clips, to 10 %'
              : `frames ${frameOf(from)} to ${frameOf(to)} of ${clip.name}`}
        </span>
      </div>
      <p className="min-h-0 flex-1 overflow-y-auto leading-snug" tabIndex={0} data-testid="motion-words">
        {motion?.done && !motion.failed && moments.length > 1 && words.length === 0 ? 'The pattern holds throughout.' : words.join(' ')}
      </p>
    </div>
  );
}
