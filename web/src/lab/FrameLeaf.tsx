// A frame in hand: its picture as large as there is room, its files, and what happened to it.
import type { JobFrame } from '@plinket/contract';
import { Download, X } from 'lucide-react';
import { useEffect } from 'react';
import { bytesWords } from '../parts/amounts.ts';
import { when } from '../parts/when.ts';
import { frameWords } from './words.ts';

export function FrameLeaf({ frame, shut }: { frame: JobFrame; shut(): void }) {
  useEffect(() => {
    const keys = (e: KeyboardEvent) => e.key === 'Escape' && shut();
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  }, [shut]);
  const png = frame.files.find((f) => f.name.endsWith('.png'));
  const picture = png?.sha256 ?? frame.picture;
  return (
    <aside
      className="flex w-80 shrink-0 flex-col gap-3 overflow-y-auto border-l hairline p-4"
      aria-label={`${frame.label} ${frame.frame}`}
      tabIndex={0}
    >
      <div className="flex items-baseline gap-2">
        <h3 className="min-w-0 flex-1 truncate font-semibold">
          {frame.label} · {frame.frame}
        </h3>
        <button className="btn btn-ghost btn-xs btn-square" aria-label="Shut" onClick={shut}>
          <X size={14} />
        </button>
      </div>
      <p className="quiet text-2xs">
        {[
          frameWords(frame),
          ...(frame.node && frame.state === 'done' ? [`by ${frame.node}`] : []),
          ...(frame.attempts > 1 ? [`${frame.attempts} tries`] : []),
        ].join(' · ')}
      </p>
      {picture && (
        <a href={`/api/blobs/${picture}`} target="_blank" rel="noreferrer" title="Open it in a tab of its own" className="bg-neutral">
          <img src={`/api/blobs/${picture}`} alt={`${frame.label}, frame ${frame.frame}`} className="w-full object-contain" />
        </a>
      )}
      {frame.files.map((file) => (
        <a
          key={file.name}
          className="flex items-center gap-2 hover:underline"
          href={`/api/blobs/${file.sha256}`}
          download={file.name.replaceAll('/', '_')}
        >
          <Download size={14} className="shrink-0" />
          <span className="min-w-0 flex-1 truncate" title={file.name}>
            {file.name}
          </span>
          <span className="quiet text-2xs">{bytesWords(file.bytes)}</span>
        </a>
      ))}
      <section aria-label="What happened to it">
        <h4 className="caps mb-1">Log</h4>
        <ol className="text-2xs">
          {frame.log.map((line, i) => (
            <li key={i} className="flex gap-2">
              <span className="quiet shrink-0">{when(new Date(line.at), new Date())}</span>
              <span className="min-w-0 break-words">{line.words}</span>
            </li>
          ))}
          {frame.log.length === 0 && <li className="quiet">Nothing yet.</li>}
        </ol>
      </section>
    </aside>
  );
}
