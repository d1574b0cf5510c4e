// What this setup draws on the face that stands here, for the kits that are kept of it.
import { named, orderOf, type Kit, type Setup } from '@plinket/core';
import type { Stage } from '../context.ts';

/** Pattern, ratio and key as they were read last; nothing where no face was read. */
export function drawnHere({ view }: Pick<Stage, 'view'>): NonNullable<Kit['shows']> | undefined {
  const read = view.getState().reading?.reading;
  const pattern = read && named(read.byKey)?.pattern,
    ratio = read?.ratio?.value,
    key = read?.key?.id;
  const shows = { ...(pattern ? { pattern } : {}), ...(ratio && ratio < 1000 ? { ratio } : {}), ...(key ? { key } : {}) };
  return Object.keys(shows).length ? shows : undefined;
}

/** Who stands in a setup, for a kit's picture. */
export const whoStands = (setup: Setup): string =>
  orderOf(setup.subjects)
    .map((id) => setup.subjects.items[id]!.name)
    .join(', ')
    .slice(0, 120) || 'an empty stage';
