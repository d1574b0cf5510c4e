import { orderOf, lightsPatch, togetherPatch } from '@plinket/core';
import type { ProofList, SetupRecord } from '@plinket/contract';
import { useQueryClient, type InfiniteData } from '@tanstack/react-query';
import { createRef, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { openShared } from '../document/shared.ts';
import { StageEngine } from '../engine/bridge.ts';
import { Notices } from '../parts/DocumentTools.tsx';
import { setsAlike } from '../parts/gestures.ts';
import { contactSheet } from '../parts/contact.ts';
import { save } from '../parts/save.ts';
import { SetupByAddress } from '../parts/SetupByAddress.tsx';
import { AtOdds } from './AtOdds.tsx';
import { useBeginning } from './begin.ts';
import { Column } from './Column.tsx';
import { createView, inHand, StageContext, type Stage } from './context.ts';
import { Episodes } from './episodes.ts';
import { Header } from './Header.tsx';
import { Import } from './Import.tsx';
import { useStageKeys } from './keys.ts';
import { lightingPlan } from './lighting-plan.ts';
import { Commands, Help } from './Overlays.tsx';
import { Picture } from './Picture.tsx';
import { SetupHistory } from './history/History.tsx';
import { ShotPanel } from './shot/ShotPanel.tsx';
import { Kits } from './kits/Kits.tsx';
import { readingForProof } from './reading/face-read.ts';
import { ReachTable } from './reach/Table.tsx';
import { Ruler } from './Ruler.tsx';
import { Shares } from './Shares.tsx';
import { Landmarks } from './landmarks/Landmarks.tsx';
import { Shelf } from './Shelf.tsx';
import { Tour } from './Tour.tsx';

/** The workbench: opens a setup by its address. */
export const StagePage = () => <SetupByAddress what="the setup">{(record) => <Bench key={record.id} record={record} />}</SetupByAddress>;

/** What a file holds, at the end of its name. */
const CUT_WORDS = { all: 'cut out', figure: 'figure', shadow: 'shadow' } as const;

function useOpened(record: SetupRecord) {
  const [opened, setOpened] = useState<Pick<Stage, 'doc' | 'engine' | 'view'>>();
  useEffect(() => {
    let close: (() => void) | undefined,
      left = false;
    void openShared(record).then((doc) => {
      if (left) return doc.close();
      const engine = new StageEngine(),
        view = createView(orderOf(record.document.lights)[0]);
      engine.onThumbs = (thumbs) =>
        view.setState((v) => ({ thumbs: [...v.thumbs.filter(({ id }) => !thumbs.some((t) => t.id === id)), ...thumbs] }));
      engine.onReading = (reading) => view.setState({ reading });
      engine.onMotion = (motion) => view.setState({ motion });
      engine.onSeen = (seen) => view.setState({ seen });
      engine.onSet = (setSeen) => view.setState({ setSeen });
      engine.onState = (engineState) => view.setState({ engineState });
      engine.onFailure = (failure) => view.setState({ failure });
      close = () => {
        doc.close();
        engine.close();
      };
      setOpened({ doc, engine, view });
    });
    return () => {
      left = true;
      close?.();
    };
  }, [record]);
  return opened;
}

function Bench({ record }: { record: SetupRecord }) {
  const opened = useOpened(record);
  return opened ? <Workbench {...opened} /> : null;
}

function Workbench({ doc, engine, view }: Pick<Stage, 'doc' | 'engine' | 'view'>) {
  const queries = useQueryClient();
  const importing = useRef<{ choose(): void; bring(files: File[]): void }>(undefined);
  const stage = useMemo<Stage>(() => {
    /** Pictures that are kept say what the setup says: of another frame none is made, and the first is shown again. */
    const firstFrame = (): void => {
      const { later } = view.getState();
      if (!later) return;
      view.setState({ later: undefined });
      throw new Error(`Frame ${later.frame} was shown, and a picture is of the first: it comes now, keep it when it is calm.`);
    };
    const png = async () => {
      firstFrame();
      const { setup } = doc.getState();
      const reading = await readingForProof({ doc, engine, view });
      return engine.exportPng(setup, reading && { reading });
    };
    return {
      doc,
      engine,
      view,
      canvas: createRef<HTMLCanvasElement>(),
      episodes: new Episodes(),
      chooseFile: () => importing.current?.choose(),
      keepProof: () => {
        const { id } = doc.getState();
        const known = queries.getQueryData<InfiniteData<ProofList>>(['proofs', id])?.pages ?? [];
        const count = known.reduce((n, page) => n + page.items.length, 0) + 1;
        void png()
          .then((bytes) => api.addProof(id, `Proof ${count}`, bytes))
          .then(async (proof) => {
            await queries.invalidateQueries({ queryKey: ['proofs', id] });
            toast(`${proof.name} kept`);
          })
          .catch((error: Error) => toast.error(`The proof was not kept: ${error.message}`));
      },
      save,
      downloadPng: () =>
        void png()
          .then((bytes) => save(new Blob([bytes], { type: 'image/png' }), `${doc.getState().setup.name}.png`))
          .catch((error: Error) => toast.error(error.message)),
      downloadCutOut: (cut) =>
        void Promise.resolve()
          .then(() => (firstFrame(), engine.exportPng(doc.getState().setup, { cut })))
          .then((bytes) => save(new Blob([bytes], { type: 'image/png' }), `${doc.getState().setup.name} ${CUT_WORDS[cut.parts]}.png`))
          .catch((error: Error) => toast.error(`Nothing was cut out: ${error.message}`)),
      downloadContactSheet: () => {
        const { setup } = doc.getState();
        void Promise.resolve()
          .then(() => (firstFrame(), engine.contactPictures(setup)))
          .then((pictures) => contactSheet(setup, pictures))
          .then((blob) => save(blob, `${setup.name} shares.png`))
          .catch((error: Error) => toast.error(`No contact sheet: ${error.message}`));
      },
      lightingPlan: (kind) => {
        const { setup } = doc.getState();
        void Promise.resolve()
          .then(() => (firstFrame(), readingForProof({ doc, engine, view })))
          .then(async (reading) => lightingPlan(setup, await engine.exportPng(setup), reading, kind))
          .then((file) => save(file, `${setup.name} plan.${kind}`))
          .catch((error: Error) => toast.error(`No plan was drawn: ${error.message}`));
      },
      select: (id, more = false) =>
        view.setState((v) => {
          const now = inHand(v);
          if (!more || id === undefined || now.length === 0)
            return { selected: id, also: [], flag: undefined, ...(id === undefined ? {} : { sheet: 'light' as const }) };
          const next = now.includes(id) ? now.filter((i) => i !== id) : [...now, id];
          return { selected: next[0], also: next.slice(1), flag: undefined, sheet: 'light' as const };
        }),
      changeLights: (change, gesture) => {
        const { setup } = doc.getState(),
          ids = inHand(view.getState());
        doc.getState().change(setsAlike(gesture) ? lightsPatch(setup, ids, change) : togetherPatch(setup, ids, change), gesture);
      },
    };
  }, [doc, engine, view, queries]);
  useStageKeys(stage);
  useBeginning(
    stage,
    useCallback((files: File[]) => importing.current?.bring(files), []),
  );
  return (
    <StageContext.Provider value={stage}>
      <div
        className="flex h-full min-w-[1000px] flex-col overflow-hidden"
        onPointerDownCapture={() => engine.hand(true)}
        onPointerUpCapture={() => engine.hand(false)}
        onPointerCancelCapture={() => engine.hand(false)}
      >
        <Header />
        <main className="flex min-h-0 flex-1">
          <div className="grid min-h-0 min-w-0 flex-1 grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
            <Picture />
            <Ruler />
          </div>
          <Column />
        </main>
        <Shares />
      </div>
      <Import stage={stage} opener={useCallback((ways) => (importing.current = ways), [])} />
      <ReachTable />
      <Kits />
      <SetupHistory />
      <ShotPanel />
      <Shelf />
      <Landmarks />
      <AtOdds />
      <Help />
      <Commands />
      <Tour />
      <Notices doc={doc} />
    </StageContext.Provider>
  );
}
