import { inOrder, orderOf, setupHead } from '@plinket/core';
import { Canvas } from '@react-three/fiber';
import { Magnet, Pause, Play } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { FPS } from '../clips.ts';
import { inHand, useDoc, useStage, useView } from '../context.ts';
import type { useLightHand } from '../hands.ts';
import { bodiesOf, cameraLines, standOf, type SetAngle } from './bodies.ts';
import { gripPatch, gripPoint, type Grip } from './grip.ts';
import { Figures, Surroundings } from './Figures.tsx';
import { Hands } from './Hands.tsx';
import { BodyMesh, Letter, Lines, Suns } from './Lights.tsx';

const ANGLES: [SetAngle, string][] = [
  ['free', 'Free'],
  ['top', 'Top'],
  ['front', 'Front'],
  ['side', 'Side'],
  ['along', 'Along light'],
  ['camera', 'Through camera'],
];

/** Plays the first posed clip, as quickly as figures come; answers the moment, or nothing while it rests. */
function usePlaying(playing: boolean): number | undefined {
  const { doc, engine } = useStage();
  const [time, setTime] = useState<number>();
  useEffect(() => {
    if (!playing) return setTime(undefined);
    let on = true;
    const start = performance.now();
    const { subjects } = doc.getState().setup;
    const subject = inOrder(subjects).find((s) => s.pose);
    if (!subject?.pose) return undefined;
    const { clip, range } = subject.pose;
    void engine.character(subject.asset).then(({ clips }) => {
      const [from, to] = range ?? [0, clips.find((c) => c.name === clip)?.duration ?? 1];
      const step = () => {
        if (!on) return;
        setTime(from + Math.floor((((performance.now() - start) / 1000) % (to - from)) * FPS) / FPS);
        setTimeout(step, 1000 / 12);
      };
      step();
    });
    return () => void (on = false);
  }, [playing, doc, engine]);
  return time;
}

/** The camera's frame over the view through it: what lies outside is dimmed. */
function FrameOver({ aspect }: { aspect: number }) {
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden" data-testid="set-frame">
      <div
        className="absolute top-1/2 left-1/2 h-full -translate-x-1/2 -translate-y-1/2 outline outline-white/60"
        style={{ aspectRatio: String(aspect), boxShadow: '0 0 0 2000px rgb(0 0 0 / 0.55)' }}
      />
    </div>
  );
}

/** Everything on the stage as objects, in real time. The light in it is none of the setup's: the picture is the truth. */
export default function SetView({ hand: alongHand }: { hand: ReturnType<typeof useLightHand> | undefined }) {
  const { doc, select, view } = useStage();
  const setup = useDoc((d) => d.setup);
  const hand = useView(inHandKey);
  const flag = useView((v) => v.flag);
  const looking = useView((v) => v.along);
  const selected = useView((v) => v.selected);
  const along = looking ?? selected;
  const [chosen, setAngle] = useState<SetAngle>('free');
  const angle = looking === undefined ? chosen : 'along';
  const [snap, setSnap] = useState(false);
  const [playing, setPlaying] = useState(false);
  const [other, setOther] = useState<Grip>();
  const [turns, setTurns] = useState(0);
  const time = usePlaying(playing);
  const bodies = useMemo(() => bodiesOf(setup), [setup]);
  const head = useMemo(() => setupHead(setup), [setup]);
  const frame = useMemo(() => cameraLines(setup), [setup]);
  const held = useMemo(() => hand.split(' ').filter(Boolean), [hand]);
  const grip = useMemo<Grip>(
    () => other ?? (flag ? { kind: 'flag', id: flag } : held[0] ? { kind: 'light', id: held[0] } : undefined),
    [other, flag, held],
  );
  const point = useMemo(() => gripPoint(setup, grip), [setup, grip]);
  // a light or flag that is taken elsewhere takes the handles from figure or camera
  useEffect(() => setOther(undefined), [hand, flag]);
  // views that belong to camera or light follow them; the others stay where the hand has brought them
  const follows = angle === 'camera' || angle === 'along';
  // eslint-disable-next-line react-hooks/exhaustive-deps -- only a view that follows is a new one for every change of the setup
  const stand = useMemo(() => standOf(setup, angle, along), [angle, along, turns, follows ? setup : undefined]);
  const posed = orderOf(setup.subjects).some((id) => setup.subjects.items[id]!.pose);

  return (
    <div className="absolute inset-0 flex flex-col" data-testid="set-view">
      <div className="flex h-7 items-center gap-0.5 px-1 text-2xs">
        {ANGLES.map(([name, label]) => (
          <button
            key={name}
            className={`rounded px-1.5 py-0.5 ${angle === name ? 'bg-base-200 font-semibold' : 'hover:bg-base-300/60'} disabled:opacity-40`}
            aria-pressed={angle === name}
            disabled={name === 'along' && !bodies.some((b) => b.what === 'light' && b.id === along)}
            onClick={() => {
              setAngle(name);
              setTurns(turns + 1);
              // looking along is left for another view; the set stays open
              if (looking !== undefined) view.setState({ along: undefined, set: true });
            }}
          >
            {label}
          </button>
        ))}
        <button
          className={`ml-2 flex items-center gap-1 rounded px-1.5 py-0.5 ${snap ? 'bg-base-200 font-semibold' : 'hover:bg-base-300/60'}`}
          aria-pressed={snap}
          title="Handles move by 10 cm"
          onClick={() => setSnap(!snap)}
        >
          <Magnet size={11} /> 10 cm
        </button>
        {posed && (
          <button
            className="flex items-center gap-1 rounded px-1.5 py-0.5 hover:bg-base-300/60"
            aria-pressed={playing}
            onClick={() => setPlaying(!playing)}
          >
            {playing ? <Pause size={11} /> : <Play size={11} />} clip
          </button>
        )}
        <span className="quiet ml-auto truncate" role="note">
          {looking === undefined ? 'real-time view: form, not light' : 'drag to move the light; watch the picture'}
        </span>
      </div>
      <div
        className={`relative min-h-0 flex-1 bg-[oklch(24%_0_0)] ${alongHand ? 'cursor-move touch-none' : ''}`}
        data-testid="set-canvas"
        {...alongHand}
      >
        <Canvas
          frameloop="demand"
          flat
          dpr={1}
          gl={{ antialias: true, powerPreference: 'low-power' }}
          camera={{ near: 0.05, far: 200 }}
          fallback={<p className="p-4">This browser draws no 3D here; plan and side show the same set.</p>}
          onPointerMissed={() => setOther(undefined)}
        >
          <hemisphereLight args={['#ffffff', '#555555', 1.6]} />
          <directionalLight position={[2, 4, 3]} intensity={1.5} />
          <Surroundings />
          <Figures
            time={time}
            onGrip={(id) => {
              setOther({ kind: 'subject', id });
              view.setState({ sheet: 'character', subject: id });
            }}
          />
          {bodies.map((b) => (
            <BodyMesh
              key={`${b.what} ${b.id}`}
              body={b}
              held={b.what === 'light' ? held.includes(b.id) : flag === b.id}
              onGrip={(more) => {
                setOther(undefined);
                if (b.what === 'light') select(b.id, more);
                else view.setState({ flag: b.id, sheet: 'light' });
              }}
            />
          ))}
          {bodies
            .filter((b) => b.letter !== '' && !(angle === 'along' && b.id === along))
            .map((b) => (
              <Letter key={b.id} letter={b.letter} colour={b.colour} at={b.centre} size={0.105 * Math.tan((stand.fov * Math.PI) / 360)} />
            ))}
          <Suns setup={setup} origin={head.origin} />
          {angle !== 'camera' && (
            <>
              <Lines points={frame} colour="#d8d8d8" opacity={0.7} />
              <mesh
                position={setup.camera.position}
                onClick={(e) => {
                  e.stopPropagation();
                  setOther({ kind: 'camera' });
                  view.setState({ sheet: 'camera' });
                }}
              >
                <boxGeometry args={[0.12, 0.12, 0.2]} />
                <meshLambertMaterial color="#b8b8b8" />
              </mesh>
            </>
          )}
          <Hands
            stand={stand}
            held={(angle === 'camera' && grip?.kind === 'camera') || alongHand ? undefined : point}
            snap={snap}
            above={angle === 'top'}
            still={follows}
            onTakeBack={(gesture) => doc.getState().takeBack(gesture)}
            onMove={(to, gesture) => grip && doc.getState().change(gripPatch(doc.getState().setup, grip, to), gesture)}
          />
        </Canvas>
        {angle === 'camera' && <FrameOver aspect={setup.camera.aspect} />}
      </div>
    </div>
  );
}

const inHandKey = (v: Parameters<typeof inHand>[0]): string => inHand(v).join(' ');
