// Kits that stay tied: what changed in the kit since it was put on is offered here as a difference. What was changed here by hand, and not there, stays.
import { applyPatch, describePatch, diff, isEmptyPatch, type Kit, type KitIds, type Patch, type Setup, type Tie } from '../setup/index.ts';
import { putKit } from './kits.ts';

/** What a kit that changed would change here. */
export interface Offer {
  /** Brings the changes, and says which revision stands here then. */
  patch: Patch;
  /** What of it is seen in the light: in words; empty where only words of the kit changed. */
  words: string;
  /** What changed in the kit and is locked or not here any more, by its name there. */
  left: string[];
}

type Items = Record<string, Patch | null>;

/** The setup without what a kit brought. */
function withoutIts(setup: Setup, { ids }: Tie): Setup {
  const rest = <T>(items: Record<string, T>, gone: Record<string, string>) => {
    const its = new Set(Object.values(gone));
    return { items: Object.fromEntries(Object.entries(items).filter(([id]) => !its.has(id))) };
  };
  const { lights, flags, cameras } = setup;
  return {
    ...setup,
    lights: rest(lights.items, ids.lights),
    flags: rest(flags.items, ids.flags),
    cameras: rest(cameras.items, ids.cameras),
  };
}

/** The patch without what it says of things that were taken away here, or locked; what is added goes along. */
function ofThoseThere(patch: Patch, setup: Setup, then: Setup, left: string[]): Patch {
  const out: Patch = { ...patch };
  for (const kind of ['lights', 'flags', 'cameras'] as const) {
    const items = (patch[kind] as { items?: Items } | undefined)?.items;
    if (!items) continue;
    const kept = Object.entries(items).filter(([id, change]) => {
      const here = Object.hasOwn(setup[kind].items, id),
        was = then[kind].items[id] as { name?: string } | undefined;
      const locked = kind === 'lights' && setup.lights.items[id]?.locked;
      if (was && (locked || (!here && change !== null))) left.push(was.name ?? id);
      return locked ? false : here || (!was && change !== null);
    });
    if (kept.length) out[kind] = { items: Object.fromEntries(kept) };
    else delete out[kind];
  }
  return out;
}

/**
 * What a tied kit offers: both its revisions are put on this head, under the ids that they have here, and what differs between them is the offer.
 * @param then the kit as it was when it was put on, or last taken over
 * @param now the kit as it is, at `revision`
 */
export function offerOf(setup: Setup, id: string, then: Kit, now: Kit, revision: number, letters = ''): Offer {
  const tie = setup.ties![id]!;
  const bare = withoutIts(setup, tie);
  const put = (kit: Kit, ids: KitIds) => putKit(bare, kit, { parts: tie.parts, how: tie.how, ids, letters });
  const before = put(then, tie.ids),
    after = put(now, before.ids);
  const left: string[] = [];
  const change = ofThoseThere(diff({ ...before.setup, ties: {} }, { ...after.setup, ties: {} }), setup, before.setup, left);
  const stands: Tie = { ...tie, name: now.name, revision, ids: after.ids };
  return {
    patch: { ...change, ties: { [id]: diff(tie, stands) } },
    words: isEmptyPatch(diff(setup, applyPatch(setup, change))) ? '' : describePatch(setup, change),
    left,
  };
}
