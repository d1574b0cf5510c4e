import {
  inOrder,
  lightPatch,
  objectName,
  orderOf,
  partRef,
  propRef,
  STAGE_PIECES,
  type ObjectLight,
  type ObjectRef,
  type Setup,
} from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { SelectField } from '../../parts/Fields.tsx';
import { useDoc, useStage } from '../context.ts';

/** Everything that a ray can meet, with what it is called. */
export function useObjects(): [ref: ObjectRef, name: string][] {
  const { engine } = useStage();
  const subjects = useDoc((d) => d.setup.subjects);
  const props = useDoc((d) => d.setup.props);
  const stage = useDoc((d) => d.setup.stage.kind);
  const parts = useQuery({
    queryKey: ['objects', ...inOrder(subjects).map((s) => s.asset)],
    queryFn: async () =>
      Object.fromEntries(await Promise.all(inOrder(subjects).map(async (s) => [s.asset, await engine.parts(s.asset)] as const))),
  });
  return useMemo(() => objectsOf(subjects, props, stage, parts.data), [subjects, props, stage, parts.data]);
}

/** The parts of what is shown, the things and the pieces of the stage. */
function objectsOf(
  subjects: Setup['subjects'],
  props: Setup['props'],
  stage: Setup['stage']['kind'],
  parts: Record<string, { name: string }[]> | undefined,
): [ref: ObjectRef, name: string][] {
  const shown = orderOf(subjects).filter((id) => subjects.items[id]!.visible);
  const refs = [
    ...shown.flatMap((id) => (parts?.[subjects.items[id]!.asset] ?? []).map((p) => partRef(id, p.name))),
    ...orderOf(props).map(propRef),
    ...STAGE_PIECES.filter((piece) => stage !== 'none' && (piece === 'backdrop' || stage === 'room')).map((piece) => `stage/${piece}`),
  ];
  return refs.map((ref) => [ref, objectName({ subjects, props }, ref)]);
}

/** Which object of the scene glows. */
export function GlowingObject({ id, light }: { id: string; light: ObjectLight }) {
  const { change } = useStage().doc.getState();
  const setup = useDoc((d) => d.setup);
  const objects = useObjects();
  const known = objects.some(([ref]) => ref === light.object);
  return (
    <SelectField
      label="Object"
      value={light.object}
      options={known ? objects : [[light.object, objectName(setup, light.object)], ...objects]}
      testId="object"
      onChange={(object) => change(lightPatch(id, { object }))}
    />
  );
}
