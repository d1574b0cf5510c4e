// What a setup shows and draws here, for the kits that are kept of it.
import { named, orderOf, type Kit, type Setup } from '@plinket/core';
import type { Stage } from '../context.ts';
import { kitPicture } from './picture.ts';

/** Pattern, ratio and key as they were read last; nothing where no face was read. */
function drawnHere({ view }: Pick<Stage, 'view'>): Kit['shows'] {
  const read = view.getState().reading?.reading;
  const pattern = read && named(read.byKey)?.pattern,
    ratio = read?.ratio?.value,
    key = read?.key?.id;
  const shows = { ...(pattern ? { pattern } : {}), ...(ratio && ratio < 1000 ? { ratio } : {}), ...(key ? { key } : {}) };
  return Object.keys(shows).length ? shows : undefined;
}

/** Who stands in a setup, for a kit's picture. */
const whoStands = (setup: Setup): string =>
  orderOf(setup.subjects)
    .map((id) => setup.subjects.items[id]!.name)
    .join(', ')
    .slice(0, 120) || 'an empty stage';

/** What a kit says of how it is seen here: its picture and, of one with lights, what they draw on this face. */
export async function seenHere(
  { doc, view, canvas }: Pick<Stage, 'doc' | 'view' | 'canvas'>,
  lit: boolean,
): Promise<Pick<Kit, 'shows' | 'shown'>> {
  const { setup } = doc.getState(),
    shows = lit ? drawnHere({ view }) : undefined,
    { key: _, ...read } = shows ?? {};
  const picture = await kitPicture(canvas.current);
  return { ...(shows ? { shows } : {}), shown: picture ? [{ on: whoStands(setup), picture, ...read }] : [] };
}
