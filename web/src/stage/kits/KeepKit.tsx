import { KIT_PARTS, kitOf, type KitPart } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { CheckOf } from '../../parts/Fields.tsx';
import { useDoc, useStage } from '../context.ts';
import { chosenParts, KITS, PART_WORDS, tagsOf } from '../../kits/words.ts';
import { seenHere } from './shown.ts';
import { useTying } from './ties.ts';

/** Keeps parts of this setup as a kit, with what it draws on this face. */
export function KeepKit({ done }: { done: () => void }) {
  const stage = useStage(),
    { doc } = stage;
  const { tie } = useTying();
  const queries = useQueryClient();
  const hasTargets = useDoc((d) => Object.keys(d.setup.targets ?? {}).length > 0);
  const [chosen, setChosen] = useState<ReadonlySet<KitPart>>(new Set(['rig']));
  const [keeping, setKeeping] = useState(false);
  const hasTable = useDoc((d) => d.setup.turntable !== undefined);
  const there = KIT_PARTS.filter((p) => (p !== 'targets' || hasTargets) && (p !== 'turntable' || hasTable));
  const keep = async (form: FormData) => {
    const text = (name: string) => String(form.get(name) ?? '').trim();
    const { setup } = doc.getState(),
      parts = chosenParts(chosen, there);
    setKeeping(true);
    try {
      const { kit, left, ids } = kitOf(setup, parts, {
        name: text('name'),
        brief: text('brief'),
        notes: '',
        tags: tagsOf(text('tags')),
        ...(await seenHere(stage, chosen.has('rig'))),
      });
      const { id, revision } = await api.createKit(kit);
      tie(id, { name: kit.name, revision, parts, how: 'replace', offers: form.has('tied'), ids });
      await queries.invalidateQueries({ queryKey: KITS });
      toast(`${kit.name} is kept${left.length ? `, without ${left.join('; ')}` : ''}`);
      done();
    } catch (error) {
      toast.error(`The kit was not kept: ${(error as Error).message}`);
    } finally {
      setKeeping(false);
    }
  };
  return (
    <form
      className="flex flex-wrap items-center gap-x-3 gap-y-2 border-b hairline px-3 py-2"
      aria-label="Keep as a kit"
      onSubmit={(e) => {
        e.preventDefault();
        void keep(new FormData(e.currentTarget));
      }}
      onKeyDown={(e) => {
        if (e.key !== 'Escape') return;
        e.stopPropagation();
        done();
      }}
    >
      <input
        className="input input-xs w-44"
        name="name"
        aria-label="Name of the kit"
        placeholder="its name"
        maxLength={120}
        required
        autoFocus
      />
      <input
        className="input input-xs min-w-40 flex-1"
        name="brief"
        aria-label="What the kit is for"
        placeholder="what it is for, in a line"
        maxLength={240}
      />
      <input className="input input-xs w-36" name="tags" aria-label="Tags of the kit" placeholder="tags, by commas" maxLength={400} />
      <fieldset className="flex items-center gap-3">
        <legend className="sr-only">What goes into the kit</legend>
        {there.map((part) => (
          <CheckOf key={part} value={part} chosen={chosen} onChosen={setChosen} words={PART_WORDS[part]} />
        ))}
      </fieldset>
      <label className="flex min-h-6 items-center gap-1.5" title="What changes in the kit later is offered here">
        <input type="checkbox" name="tied" className="checkbox checkbox-xs" />
        this setup stays tied to it
      </label>
      <button className="btn btn-primary btn-xs" disabled={keeping || chosen.size === 0}>
        Keep kit
      </button>
      <button type="button" className="btn btn-ghost btn-xs" onClick={done}>
        Leave
      </button>
    </form>
  );
}
