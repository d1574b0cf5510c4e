import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { useStage } from './context.ts';

/** What lies over the lower part of the Stage, so that the face stays in sight. Escape in it closes it, and nothing else: what is shown in the picture and not decided yet has its own way to be left. */
export function Panel({ name, of, tools, children }: { name: string; of: string; tools: ReactNode; children: ReactNode }) {
  const { view } = useStage();
  const close = () => view.setState({ panel: undefined });
  return (
    <section
      aria-label={name}
      className="fixed inset-x-0 bottom-0 z-30 flex flex-col border-t hairline bg-base-100 shadow-2xl"
      onKeyDown={(e) => {
        if (e.key !== 'Escape') return;
        e.stopPropagation();
        close();
      }}
    >
      <header className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b hairline px-3 py-1.5">
        <h2 className="text-2xs font-bold tracking-widest uppercase">{name}</h2>
        {tools}
        <button className="btn btn-ghost btn-xs btn-square" aria-label={`Close the ${of}`} onClick={close}>
          <X size={14} />
        </button>
      </header>
      {children}
    </section>
  );
}
