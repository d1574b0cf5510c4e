import { Download, History as HistoryIcon, Package, RotateCw, Send, Stamp } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { sequenceOf, stillOf, turnOf, underKits } from '../lab/sendable.ts';
import { SendJob } from '../lab/SendJob.tsx';
import { DocumentTools } from '../parts/DocumentTools.tsx';
import { Mark } from '../parts/Mark.tsx';
import { Others } from './company.tsx';
import { openOrShut, useDoc, useStage } from './context.ts';
import { FilesMenu } from './FilesMenu.tsx';
import { useTies } from './kits/ties.ts';
import { useShot } from './shot/shot.ts';
import { ShotWay } from './shot/ShotWay.tsx';

/** Opens the kits; a dot says that one which this setup is tied to has changed. */
function KitsButton() {
  const { view } = useStage();
  const offered = useTies().filter((t) => t.changed);
  const said = offered.length ? `${offered.map((t) => t.tie.name).join(', ')} changed; ` : '';
  return (
    <button
      className="btn relative btn-sm"
      onClick={() => view.setState(openOrShut('kits'))}
      title={`Kits: ${said}parts of setups for other characters (K)`}
    >
      <Package size={14} /> Kits
      {offered.length > 0 && <i className="absolute top-1 right-1 size-2 rounded-full bg-warning" data-testid="offered" />}
    </button>
  );
}

/** Sends this picture, its turntable, or the sequence that it is of. */
function SendButton() {
  const { doc } = useStage();
  const [open, setOpen] = useState(false);
  const setup = useDoc((d) => d.setup),
    of = useShot();
  const { id } = doc.getState();
  const sendables = [
    stillOf(id),
    ...(setup.turntable ? [turnOf(id, setup.turntable)] : []),
    ...(of ? [sequenceOf(of.sequence.id, of.sequence.document)] : []),
    underKits(id),
  ];
  return (
    <>
      <button className="btn btn-sm" onClick={() => setOpen(true)} title="Have it rendered by the Lab, as files">
        <Send size={14} /> Lab
      </button>
      {open && <SendJob name={setup.name} sendables={sendables} like={setup} leave={() => setOpen(false)} />}
    </>
  );
}

export function Header() {
  const { doc, view, keepProof, downloadPng } = useStage();
  const name = useDoc((d) => d.setup.name),
    brief = useDoc((d) => d.setup.brief);
  const { change } = doc.getState();
  return (
    <header className="flex h-11 items-center gap-3 border-b hairline bg-base-200 px-3">
      <Link to="/" className="flex items-center gap-2 rounded px-1" aria-label="All setups">
        <Mark />
      </Link>
      <span className="quiet">▸</span>
      <ShotWay />
      {/* a shot is known by its code */}
      <input
        hidden={useShot()?.shot !== undefined}
        className="w-40 truncate rounded-sm bg-transparent px-1 font-semibold hover:bg-base-300 focus:bg-base-300"
        aria-label="Name of the setup"
        key={name}
        defaultValue={name}
        maxLength={120}
        onBlur={(e) => (e.target.value.trim() ? change({ name: e.target.value.trim() }) : (e.target.value = name))}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
      <div className="flex min-w-0 flex-1 items-center justify-center">
        <span className="quiet" aria-hidden>
          “
        </span>
        <input
          className="field-sizing-content max-w-full min-w-24 truncate rounded-sm bg-transparent px-0.5 text-center hover:bg-base-300 focus:bg-base-300"
          aria-label="Brief: what the light is for"
          placeholder="what is the light for?"
          key={`b${brief}`}
          defaultValue={brief}
          maxLength={240}
          data-testid="brief"
          onBlur={(e) => change({ brief: e.target.value.trim() })}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
        <span className="quiet" aria-hidden>
          ”
        </span>
      </div>
      <Others />
      <DocumentTools doc={doc} />
      <button
        className="btn btn-ghost btn-sm btn-square"
        title="History: every moment of this setup, to be seen and had back"
        aria-label="History"
        onClick={() => view.setState(openOrShut('history'))}
      >
        <HistoryIcon size={15} />
      </button>
      <button className="btn btn-sm" onClick={downloadPng} title="The picture with its setup inside">
        <Download size={14} /> PNG
      </button>
      <FilesMenu />
      <Link
        to={`/turntable/${doc.getState().id}`}
        className="btn btn-sm btn-square"
        title="Turntable: all round, with a safe frame, as a movie"
        aria-label="Turntable"
      >
        <RotateCw size={14} />
      </Link>
      <KitsButton />
      <SendButton />
      <button className="btn btn-primary btn-sm" onClick={keepProof} data-testid="keep-proof">
        <Stamp size={14} /> Keep proof <kbd className="font-normal opacity-60">P</kbd>
      </button>
    </header>
  );
}
