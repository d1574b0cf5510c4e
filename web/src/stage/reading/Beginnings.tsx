import { BRIEFS, briefOf, RECIPE_VERSION, recipeWords } from '@plinket/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { BookmarkPlus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client.ts';
import { useRemoval } from '../../parts/removal.ts';
import { useStage } from '../context.ts';
import { Row, SELECT } from './Choice.tsx';
import { usePlacing } from './placing.ts';

const RECIPES = ['recipes'];

/** An intention to begin with: one that ships, or one of one's own, which a rig can be kept as. */
export function Beginnings() {
  const { engine } = useStage();
  const { ask, busy } = usePlacing();
  const queries = useQueryClient();
  const own = useQuery({ queryKey: RECIPES, queryFn: () => api.recipes({ limit: 200 }) }).data?.items ?? [];
  const removal = useRemoval(RECIPES);
  const [chosen, setChosen] = useState<string>(BRIEFS[0]!.id);
  const [naming, setNaming] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const mine = own.find((r) => r.id === chosen),
    shipped = BRIEFS.find((b) => b.id === chosen) ?? BRIEFS[0]!;
  const words = mine?.brief ?? shipped.words;
  const begin = () => {
    if (!mine) return ask({ kind: 'brief', brief: shipped.id }, '');
    api
      .recipe(mine.id)
      .then(({ id, document }) => ask({ kind: 'brief', brief: briefOf(id, document) }, ''))
      .catch((error: Error) => toast.error(`${mine.name} could not be begun: ${error.message}`));
  };
  const keep = async (name: string) => {
    setKeeping(true);
    try {
      const { light, left } = await engine.takeRecipe();
      const { id } = await api.createRecipe({ schemaVersion: RECIPE_VERSION, name, brief: recipeWords(light), light });
      await queries.invalidateQueries({ queryKey: RECIPES });
      setChosen(id);
      setNaming(false);
      toast(`${name} is kept${left.length ? `, without ${left.join(', ')}: an intention does not say such lights` : ''}`);
    } catch (error) {
      toast.error(`The rig was not kept: ${(error as Error).message}`);
    } finally {
      setKeeping(false);
    }
  };
  return (
    <>
      <Row label="begin">
        <select
          className={`${SELECT} w-28`}
          aria-label="Intention"
          value={mine?.id ?? shipped.id}
          onChange={(e) => setChosen(e.target.value)}
        >
          {own.length > 0 && (
            <optgroup label="your own">
              {own.map((r) => (
                <option key={r.id} value={r.id}>
                  {r.name}
                </option>
              ))}
            </optgroup>
          )}
          <optgroup label="to begin with">
            {BRIEFS.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}
              </option>
            ))}
          </optgroup>
        </select>
        <button className="btn btn-xs h-6 px-1.5" disabled={busy} onClick={begin}>
          Begin
        </button>
        <button
          className="btn btn-ghost btn-xs btn-square size-6"
          aria-label="Keep this rig as an intention"
          title="Keep this rig as an intention of your own"
          aria-pressed={naming}
          onClick={() => setNaming(!naming)}
        >
          <BookmarkPlus className="size-3.5" aria-hidden />
        </button>
        {mine && (
          <button
            className="btn btn-ghost btn-xs btn-square size-6"
            aria-label={`Throw ${mine.name} away`}
            title={`Throw ${mine.name} away`}
            onClick={() => {
              void removal(
                mine.name,
                () => api.removeRecipe(mine.id),
                () => api.restoreRecipe(mine.id),
              );
            }}
          >
            <Trash2 className="size-3.5" aria-hidden />
          </button>
        )}
        <span className="quiet min-w-0 truncate" title={words}>
          {words}
        </span>
      </Row>
      {naming && (
        <Row label="as">
          <form
            className="flex min-w-0 flex-1 gap-1"
            onSubmit={(e) => {
              e.preventDefault();
              const name = String(new FormData(e.currentTarget).get('name')).trim();
              if (name) void keep(name);
            }}
          >
            <input
              className="input input-xs h-6 min-w-0 flex-1"
              name="name"
              aria-label="Name of the intention"
              placeholder="its name"
              maxLength={120}
              autoFocus
              onKeyDown={(e) => e.key === 'Escape' && (e.stopPropagation(), setNaming(false))}
            />
            <button className="btn btn-xs h-6 px-1.5" disabled={keeping}>
              Keep
            </button>
          </form>
        </Row>
      )}
    </>
  );
}
