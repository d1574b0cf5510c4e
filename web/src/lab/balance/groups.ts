import { orderOf, type Setup } from '@plinket/core';

/** Lights by their groups, in order; those of none come last. */
export function groupsOf(setup: Setup): { name: string; lights: string[] }[] {
  const groups = new Map<string, string[]>();
  for (const id of orderOf(setup.lights)) {
    const { group } = setup.lights.items[id]!;
    groups.set(group, [...(groups.get(group) ?? []), id]);
  }
  return [...groups].map(([name, lights]) => ({ name, lights })).sort((a, b) => Number(a.name === '') - Number(b.name === ''));
}
