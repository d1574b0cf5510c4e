import { inOrder, orderOf } from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import type { ObjectLight } from '@plinket/core';
import { SelectField } from '../../parts/Fields.tsx';
import { useDoc, useStage } from '../context.ts';
import { lightPatch } from '../moves.ts';

/** Names of everything that a ray can meet. */
export function useObjects(): string[] {
  const { engine } = useStage();
  const subjects = useDoc((d) => d.setup.subjects);
  const props = useDoc((d) => d.setup.props);
  const stage = useDoc((d) => d.setup.stage.kind);
  const shown = inOrder(subjects).filter((s) => s.visible);
  const parts = useQuery({
    queryKey: ['objects', ...shown.map((s) => s.asset)],
    queryFn: async () => Promise.all(shown.map((s) => engine.parts(s.asset))),
  });
  return [
    ...shown.flatMap((s, i) => (parts.data?.[i] ?? []).map((p) => `${s.name}/${p.name}`)),
    ...orderOf(props).map((id) => props.items[id]!.name),
    ...(stage === 'none' ? [] : ['stage/backdrop']),
    ...(stage === 'room' ? ['stage/front'] : []),
  ];
}

/** Which object of the scene glows. */
export function GlowingObject({ id, light }: { id: string; light: ObjectLight }) {
  const { change } = useStage().doc.getState();
  const names = useObjects();
  const all = names.includes(light.object) ? names : [light.object, ...names];
  return (
    <SelectField
      label="Object"
      value={light.object}
      options={all.map((n) => [n, n])}
      testId="object"
      onChange={(object) => change(lightPatch(id, { object }))}
    />
  );
}
