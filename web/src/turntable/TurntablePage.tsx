import type { SetupRecord } from '@plinket/contract';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { openShared } from '../document/shared.ts';
import { TurnEngine } from '../engine/turn-bridge.ts';
import { DocumentTools, Notices } from '../parts/DocumentTools.tsx';
import { Mark } from '../parts/Mark.tsx';
import { SetupByAddress } from '../parts/SetupByAddress.tsx';
import { PlanSheet } from './PlanSheet.tsx';
import { Player } from './Player.tsx';
import { createTurn, RoomContext, useDoc, useRoom, useTurn, type Room } from './state.ts';
import { useTurning } from './work.ts';

function useOpened(record: SetupRecord): Room | undefined {
  const [room, setRoom] = useState<Room>();
  useEffect(() => {
    let left = false,
      close: (() => void) | undefined;
    void openShared(record).then((doc) => {
      if (left) return doc.close();
      const engine = new TurnEngine();
      close = () => {
        doc.close();
        engine.close();
      };
      setRoom({ doc, engine, turn: createTurn() });
    });
    return () => {
      left = true;
      close?.();
    };
  }, [record]);
  return room;
}

function Header() {
  const { doc } = useRoom();
  const name = useDoc((d) => d.setup.name),
    id = useDoc((d) => d.id);
  return (
    <header className="flex h-11 items-center gap-3 border-b hairline bg-base-200 px-3">
      <Link to="/" className="flex items-center gap-2 rounded px-1" aria-label="All setups">
        <Mark />
      </Link>
      <span className="quiet">▸</span>
      <Link to={`/setup/${id}`} className="max-w-64 truncate font-semibold hover:underline">
        {name}
      </Link>
      <span className="quiet">▸</span>
      <h1>Turntable</h1>
      <span className="flex-1" />
      <DocumentTools doc={doc} />
      <Notices doc={doc} />
    </header>
  );
}

/** Keys of the page: undo and redo as everywhere, Space plays and holds. */
function useKeys(): void {
  const { doc, turn } = useRoom();
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT|BUTTON)$/.test(e.target.tagName);
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !typing) {
        e.preventDefault();
        if (e.shiftKey) doc.getState().redo();
        else doc.getState().undo();
      } else if (e.key === ' ' && !typing) {
        e.preventDefault();
        turn.setState((t) => ({ playing: !t.playing }));
      }
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [doc, turn]);
}

function Table() {
  useTurning();
  useKeys();
  const failed = useTurn((t) => t.failed);
  return (
    <div className="flex h-full min-w-[1000px] flex-col overflow-hidden">
      <Header />
      {failed && (
        <p className="bg-error px-3 py-1 text-black" role="alert">
          The turn cannot be traced: {failed}
        </p>
      )}
      <main className="flex min-h-0 flex-1">
        <Player />
        <PlanSheet />
      </main>
    </div>
  );
}

function Opened({ record }: { record: SetupRecord }) {
  const room = useOpened(record);
  return room ? (
    <RoomContext.Provider value={room}>
      <Table />
    </RoomContext.Provider>
  ) : null;
}

/** The turntable of a setup: how it turns, a frame that nothing leaves, the face all round, and what is made of it. */
export const TurntablePage = () => (
  <SetupByAddress what="the turntable">{(record) => <Opened key={record.id} record={record} />}</SetupByAddress>
);
