import {
  orderOf,
  buildBall,
  buildPlinth,
  buildStage,
  buildSteps,
  type FigureProxy,
  type MeshData,
  type Setup,
  type Subject,
  type Vec3,
} from '@plinket/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Color, DoubleSide } from 'three';
import { useDoc, useStage } from '../context.ts';
import { useGeometry } from './geometry.ts';

const noRay = () => null;

const linear = ([r, g, b]: Vec3): Color => new Color().setRGB(r, g, b);
/** The set view has no exposure: dark surfaces are lifted so that their form is seen. */
const lifted = ([r, g, b]: Vec3): Vec3 => [0.06 + r * 0.8, 0.06 + g * 0.8, 0.06 + b * 0.8];

function Solid({ mesh, colour, colours }: { mesh: MeshData; colour: Vec3; colours?: Float32Array | undefined }) {
  const own = useMemo(() => colours?.map((c) => 0.06 + 0.8 * c), [colours]);
  const geometry = useGeometry(mesh, own);
  if (!geometry) return null;
  return (
    <mesh geometry={geometry} raycast={noRay}>
      <meshLambertMaterial
        key={own ? 'own' : 'plain'}
        color={own ? '#ffffff' : linear(lifted(colour))}
        vertexColors={own !== undefined}
        side={DoubleSide}
      />
    </mesh>
  );
}

/** Stage, plinths and balls. */
export function Surroundings() {
  const stage = useDoc((d) => d.setup.stage);
  const props = useDoc((d) => d.setup.props);
  const meshes = useMemo(() => buildStage(stage), [stage]);
  const things = useMemo(
    () =>
      orderOf(props).flatMap((id): { id: string; mesh: MeshData; colour: Vec3 }[] => {
        const prop: Setup['props']['items'][string] = props.items[id]!;
        if (!prop.visible) return [];
        return prop.kind === 'ball'
          ? [
              {
                id,
                mesh: buildBall(prop.position, prop.radius, 20),
                colour: prop.finish === 'chrome' ? [0.55, 0.55, 0.55] : [0.18, 0.18, 0.18],
              },
            ]
          : [{ id, mesh: prop.kind === 'steps' ? buildSteps(prop) : buildPlinth(prop), colour: prop.colour }];
      }),
    [props],
  );
  return (
    <>
      {meshes.map((m) => (
        <Solid key={m.part} mesh={m} colours={m.colours} colour={m.part === 'front' ? stage.frontColour : stage.colour} />
      ))}
      {things.map((t) => (
        <Solid key={t.id} mesh={t.mesh} colour={t.colour} />
      ))}
    </>
  );
}

function Figure({ id, subject, time, onGrip }: { id: string; subject: Subject; time: number | undefined; onGrip(): void }) {
  const { engine } = useStage();
  const { asset, name, pose } = subject;
  const moment = pose && { clip: pose.clip, time: time ?? pose.time };
  const proxy = useQuery({
    queryKey: ['proxy', asset, moment],
    queryFn: () => engine.proxy(asset, name, moment),
    placeholderData: (before: FigureProxy | undefined) => before,
    gcTime: 10_000,
  });
  const geometry = useGeometry(proxy.data, proxy.data?.colours);
  if (!geometry) return null;
  const { position, turn, scale } = subject;
  return (
    <mesh
      geometry={geometry}
      position={position}
      rotation={[0, (turn * Math.PI) / 180, 0]}
      scale={scale}
      onClick={(e) => {
        e.stopPropagation();
        onGrip();
      }}
      userData={{ id }}
    >
      <meshLambertMaterial vertexColors side={DoubleSide} />
    </mesh>
  );
}

/** Everybody who is in the picture, at the pose, or at a moment while the clip plays. */
export function Figures({ time, onGrip }: { time: number | undefined; onGrip(id: string): void }) {
  const subjects = useDoc((d) => d.setup.subjects);
  return (
    <>
      {orderOf(subjects)
        .filter((id) => subjects.items[id]!.visible)
        .map((id) => (
          <Figure key={id} id={id} subject={subjects.items[id]!} time={time} onGrip={() => onGrip(id)} />
        ))}
    </>
  );
}
