import {
  orderOf,
  cross,
  DEGREE,
  eyeParts,
  groundAt,
  normalize,
  type HeadFrame,
  type Patch,
  type Subject,
  type Vec3,
  groundPatch,
  LIMITS,
} from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useRef } from 'react';
import { Crosshair, FileUp } from 'lucide-react';
import { api } from '../api/client.ts';
import { CheckField, SelectField } from '../parts/Fields.tsx';
import { NumberField, PlaceField } from '../parts/NumberField.tsx';
import { useDoc, useStage, useView } from './context.ts';
import { CharacterShelf } from './CharacterShelf.tsx';
import { PoseFields } from './PoseFields.tsx';

/** A head frame with its nose turned to an angle about the vertical, degrees. */
function faceTo(head: HeadFrame, degrees: number): HeadFrame {
  const forward: Vec3 = [Math.sin(degrees * DEGREE), 0, Math.cos(degrees * DEGREE)];
  return { ...head, forward, up: normalize(cross(forward, cross([0, 1, 0], forward))), source: 'hand' };
}

function HeadFields({ id, subject }: { id: string; subject: Subject }) {
  const { doc, engine } = useStage();
  const { change } = doc.getState();
  const { head, pose } = subject;
  const wish = useRef(0);
  /** While the lights follow a clip's head, where the corrected one is at that moment is asked for in the same step. */
  const set = (next: Partial<HeadFrame>, g?: string) => {
    const corrected: HeadFrame = { ...head, ...next, source: 'hand' },
      gesture = g ?? `head-${id}-${performance.now()}`;
    change({ subjects: { items: { [id]: { head: corrected } } } }, gesture);
    if (!pose?.head) return;
    const mine = ++wish.current;
    void engine.character(subject.asset, pose, corrected).then(({ head: at }) => {
      if (at && mine === wish.current) change({ subjects: { items: { [id]: { pose: { head: at } } } } }, gesture);
    });
  };
  const origin = (axis: 0 | 1 | 2) => (v: number, g?: string) =>
    set({ origin: head.origin.map((o, i) => (i === axis ? Number(v.toFixed(4)) : o)) as Vec3 }, g);
  const said = { file: 'from the file’s landmarks', proposed: 'proposed: check it', hand: 'corrected by hand' }[head.source];
  return (
    <div>
      <h3 className="caps quiet">
        Head <span className={`font-normal normal-case ${head.source === 'proposed' ? 'text-warning' : ''}`}>({said})</span>
      </h3>
      <NumberField
        label="Eyes, height"
        unit="m"
        value={head.origin[1]}
        step={0.01}
        digits={2}
        limits={LIMITS.coordinate}
        testId="head-height"
        onChange={origin(1)}
      />
      <NumberField
        label="Eyes, aside"
        unit="m"
        value={head.origin[0]}
        step={0.01}
        digits={2}
        limits={LIMITS.coordinate}
        onChange={origin(0)}
      />
      <NumberField
        label="Eyes, forward"
        unit="m"
        value={head.origin[2]}
        step={0.01}
        digits={2}
        limits={LIMITS.coordinate}
        onChange={origin(2)}
      />
      <NumberField
        label="Faces"
        unit="°"
        value={Math.atan2(head.forward[0], head.forward[2]) / DEGREE}
        step={5}
        limits={LIMITS.turn}
        onChange={(v, g) => set(faceTo(head, v), g)}
      />
      <NumberField
        label="Chin–crown"
        unit="m"
        value={head.height}
        step={0.01}
        digits={2}
        limits={LIMITS.headHeight}
        onChange={(height, g) => set({ height }, g)}
      />
    </div>
  );
}

/** Millimetres as they are said. */
const lengthWords = (mm: number): string =>
  mm < 100 ? `${mm.toFixed(0)} mm` : mm < 2000 ? `${(mm / 10).toFixed(0)} cm` : `${(mm / 1000).toFixed(1)} m`;

/** How far the lowest point is off the floor, at the pose. */
function Ground({ id, subject }: { id: string; subject: Subject }) {
  const { doc, engine } = useStage();
  const stage = useDoc((d) => d.setup.stage),
    props = useDoc((d) => d.setup.props);
  const report = useQuery({
    queryKey: ['character', subject.asset, subject.pose],
    queryFn: () => engine.character(subject.asset, subject.pose),
    placeholderData: (before) => before,
  });
  if (!report.data || report.data.highest <= report.data.lowest) return null;
  const { lowest, highest } = report.data;
  const ground = groundAt({ stage, props }, subject.position[0], subject.position[2]);
  const off = (subject.position[1] + lowest * subject.scale - ground.height) * 1000;
  const what = ground.name?.toLowerCase() ?? 'floor';
  const still = Math.abs(off) < 0.5;
  return (
    <div data-testid="ground">
      <div className="flex h-6 items-center justify-between gap-2 border-b hairline">
        <span className="quiet">{((highest - lowest) * subject.scale).toFixed(2)} m tall</span>
        {still ? (
          <span className="quiet">on the {what}</span>
        ) : (
          <button className="btn btn-xs h-5 min-h-0" onClick={() => doc.getState().change(groundPatch(doc.getState().setup, id, lowest))}>
            Set down
          </button>
        )}
      </div>
      {!still && (
        <p className="h-6 border-b hairline text-warning">
          {lengthWords(Math.abs(off))} {off > 0 ? 'above' : 'into'} the {what}
        </p>
      )}
    </div>
  );
}

/** Eyes that are parts of their own look where the file has them look, or at where the camera stands. */
function Gaze({ id, subject }: { id: string; subject: Subject }) {
  const { doc, engine } = useStage();
  const camera = useDoc((d) => d.setup.camera.position);
  const report = useQuery({ queryKey: ['character', subject.asset], queryFn: () => engine.character(subject.asset) });
  const parts = eyeParts(report.data?.parts.map((p) => p.name) ?? []);
  if (!parts.length) return null;
  const { gaze } = subject;
  const look = (at: boolean) => doc.getState().change({ subjects: { items: { [id]: { gaze: at ? { target: camera, parts } : null } } } });
  const moved = gaze?.target.some((v, k) => Math.abs(v - camera[k]!) > 1e-3);
  return (
    <>
      <SelectField
        label="Eyes look"
        value={gaze ? 'camera' : 'file'}
        options={[
          ['file', 'as in the file'],
          ['camera', 'at the camera'],
        ]}
        testId="gaze"
        onChange={(v) => look(v === 'camera')}
      />
      {moved && (
        <button className="btn btn-xs mt-1 w-full" data-testid="gaze-again" onClick={() => look(true)}>
          The camera has moved: look again
        </button>
      )}
    </>
  );
}

/** The files that a mended or foreign character was made of, to be had again as they came. */
function Originals({ asset }: { asset: string }) {
  const files = useQuery({ queryKey: ['originals', asset], queryFn: () => api.originals(asset), staleTime: Infinity, retry: false });
  if (!files.data?.length) return null;
  return (
    <p className="quiet truncate py-0.5 text-2xs" data-testid="originals">
      made of{' '}
      {files.data.map((f, i) => (
        <span key={f.fileName}>
          {i > 0 && ', '}
          <a
            className="underline hover:text-base-content"
            href={api.blobUrl(f.sha256)}
            download={f.fileName}
            title={`${f.fileName}, as it came`}
          >
            {f.fileName}
          </a>
        </span>
      ))}
    </p>
  );
}

/** Everybody on the stage; one is in hand. */
function Cast({ now }: { now: string }) {
  const { doc, view } = useStage();
  const subjects = useDoc((d) => d.setup.subjects);
  if (orderOf(subjects).length < 2) return null;
  const remove = () => {
    doc.getState().change({ subjects: { items: { [now]: null } } });
    view.setState({ subject: undefined });
  };
  return (
    <div className="col-span-2 flex flex-wrap items-center gap-1 pb-1" data-testid="cast">
      {orderOf(subjects).map((s) => (
        <button
          key={s}
          aria-pressed={s === now}
          className={`rounded-sm px-1.5 ${s === now ? 'bg-base-300 font-semibold' : 'quiet hover:bg-base-300'}`}
          onClick={() => view.setState({ subject: s })}
        >
          {subjects.items[s]!.name}
        </button>
      ))}
      <button className="quiet ml-auto text-2xs hover:text-base-content" onClick={remove}>
        Take {subjects.items[now]!.name} away
      </button>
    </div>
  );
}

export function CharacterSheet() {
  const { doc, view, chooseFile } = useStage();
  const { change } = doc.getState();
  const subjects = useDoc((d) => d.setup.subjects);
  const chosen = useView((v) => v.subject);
  const id = chosen !== undefined && chosen in subjects.items ? chosen : orderOf(subjects)[0];
  const subject = id === undefined ? undefined : subjects.items[id];
  const bring = (
    <button className="btn btn-xs mt-1.5" onClick={chooseFile}>
      <FileUp size={12} /> Bring in a character …
    </button>
  );
  const shelf = <CharacterShelf />;
  if (!subject || id === undefined)
    return (
      <div className="pt-6 text-center">
        <p className="quiet mb-1">There is no character yet. Drop a GLB, glTF, OBJ, PLY or STL anywhere here.</p>
        {bring}
        <div className="mx-auto w-56">{shelf}</div>
      </div>
    );
  const set = (change_: Patch, g?: string) => change({ subjects: { items: { [id]: change_ } } }, g);
  const [x, y, z] = subject.position;
  return (
    <div className="grid grid-cols-2 gap-x-5 pt-1">
      <Cast now={id} />
      <div>
        <h3 className="caps quiet truncate">{subject.name}</h3>
        <Originals asset={subject.asset} />
        <NumberField
          label="Turned"
          unit="°"
          value={subject.turn}
          step={1}
          limits={LIMITS.turn}
          testId="turn"
          onChange={(turn, g) => set({ turn }, g)}
        />
        <NumberField
          label="Scale"
          unit="×"
          value={subject.scale}
          step={0.01}
          digits={2}
          limits={LIMITS.scale}
          testId="scale"
          onChange={(scale, g) => set({ scale }, g)}
        />
        <PlaceField label="Aside" value={x} testId="aside" onChange={(v, g) => set({ position: [v, y, z] }, g)} />
        <PlaceField label="Forward" value={z} onChange={(v, g) => set({ position: [x, y, v] }, g)} />
        <NumberField
          label="Raised"
          unit="m"
          value={y}
          step={0.01}
          digits={3}
          limits={LIMITS.coordinate}
          testId="raised"
          onChange={(v, g) => set({ position: [x, v, z] }, g)}
        />
        <Ground id={id} subject={subject} />
        <PoseFields id={id} subject={subject} />
        <Gaze id={id} subject={subject} />
        <CheckField label="In the picture" value={subject.visible} onChange={(visible) => set({ visible })} />
      </div>
      <div>
        <HeadFields id={id} subject={subject} />
        <button
          className="btn btn-xs mt-1.5 w-full"
          data-testid="mark-head"
          title="Landmarks are proposed; correct and confirm them on the turning head"
          onClick={() => view.setState({ marking: id, subject: id })}
        >
          <Crosshair size={12} /> Landmarks of the head …
        </button>
        {bring}
        {shelf}
      </div>
    </div>
  );
}
