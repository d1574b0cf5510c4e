import type { Setup, Vec3 } from '@plinket/core';
import { useEffect, useMemo } from 'react';
import { BufferAttribute, BufferGeometry, CanvasTexture, DoubleSide, Matrix4, Quaternion, Vector3 } from 'three';
import { airOf, beamLines, type Body, type Form } from './bodies.ts';

/** Line pieces between pairs of points. */
export function Lines({ points, colour, opacity = 1 }: { points: Vec3[]; colour: string; opacity?: number }) {
  const geometry = useMemo(() => {
    const g = new BufferGeometry();
    g.setAttribute('position', new BufferAttribute(Float32Array.from(points.flat()), 3));
    return g;
  }, [points]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <lineSegments geometry={geometry} raycast={() => null}>
      <lineBasicMaterial color={colour} transparent={opacity < 1} opacity={opacity} />
    </lineSegments>
  );
}

function Shape({ form }: { form: Form }) {
  switch (form.kind) {
    case 'panel':
      return <planeGeometry args={[form.width, form.height]} />;
    case 'disk':
      return <circleGeometry args={[0.5, 32]} />;
    case 'ball':
      return <sphereGeometry args={[form.radius, 20, 14]} />;
    case 'tube':
      return <capsuleGeometry args={[form.radius, Math.max(0.001, form.length - 2 * form.radius), 4, 12]} />;
    case 'box':
      return <boxGeometry args={[form.width, form.height, form.depth]} />;
  }
}

const turnOf = ({ x, y, z }: Pick<Body, 'x' | 'y' | 'z'>): Quaternion =>
  new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(new Vector3(...x), new Vector3(...y), new Vector3(...z)));

/** A line from the light to what it is aimed at, so that who shines where is seen from anywhere. */
const aimLine = ({ centre, z, reach }: Body): Vec3[] => [centre, [0, 1, 2].map((k) => centre[k]! + z[k]! * reach) as Vec3];

/** One light or flag to scale. Its face shines in its own colour, its back is dark; off, it is an outline. */
export function BodyMesh({ body, held, onGrip }: { body: Body; held: boolean; onGrip(more: boolean): void }) {
  const turn = useMemo(() => turnOf(body), [body]);
  const beams = useMemo(() => beamLines(body), [body]);
  const aim = useMemo(() => aimLine(body), [body]);
  const { form, colour, on, what } = body;
  const stretch: Vec3 = form.kind === 'disk' ? [form.width, form.height, 1] : [1, 1, 1];
  const flat = form.kind === 'panel' || form.kind === 'disk';
  return (
    <>
      <group position={body.centre} quaternion={turn} scale={stretch}>
        <mesh
          onClick={(e) => {
            e.stopPropagation();
            onGrip(e.nativeEvent.shiftKey);
          }}
        >
          <Shape form={form} />
          <meshBasicMaterial color={on ? colour : '#3a3a3a'} side={flat ? 0 : DoubleSide} wireframe={!on} />
        </mesh>
        {flat && (
          <mesh rotation={[0, Math.PI, 0]} raycast={() => null}>
            <Shape form={form} />
            <meshBasicMaterial color={what === 'flag' ? colour : held ? '#8a8a8a' : '#2a2a2a'} />
          </mesh>
        )}
      </group>
      {held && <Lines points={aim} colour={colour === '#1c1c1c' ? '#ffffff' : colour} />}
      {beams.length > 0 && <Lines points={beams} colour={colour} opacity={held ? 0.9 : 0.4} />}
    </>
  );
}

/** The letter of a light on its card's colour, always turned to the eye and never behind anything. */
export function Letter({ letter, colour, at, size }: { letter: string; colour: string; at: Vec3; size: number }) {
  const texture = useMemo(() => {
    const canvas = Object.assign(document.createElement('canvas'), { width: 64, height: 64 });
    const pen = canvas.getContext('2d')!;
    pen.fillStyle = colour;
    pen.fillRect(0, 0, 64, 64);
    pen.fillStyle = '#101010';
    pen.font = '700 44px "Archivo Variable", sans-serif';
    pen.textAlign = 'center';
    pen.textBaseline = 'middle';
    pen.fillText(letter, 32, 35);
    return new CanvasTexture(canvas);
  }, [letter, colour]);
  useEffect(() => () => texture.dispose(), [texture]);
  return (
    <sprite position={at} scale={[size, size, 1]} raycast={() => null} renderOrder={2}>
      <spriteMaterial map={texture} sizeAttenuation={false} depthTest={false} />
    </sprite>
  );
}

/** Suns as arrows that come from where they stand in the sky. */
export function Suns({ setup, origin }: { setup: Setup; origin: Vec3 }) {
  const suns = useMemo(
    () =>
      airOf(setup).map(({ id, colour, towards }) => {
        const at = (d: number, aside = 0): Vec3 => [0, 1, 2].map((k) => origin[k]! + towards[k]! * d + (k === 0 ? aside : 0)) as Vec3;
        return { id, colour, points: [at(3), at(0.6), at(0.6), at(0.85, 0.1), at(0.6), at(0.85, -0.1)] };
      }),
    [setup, origin],
  );
  return (
    <>
      {suns.map((s) => (
        <Lines key={s.id} points={s.points} colour={s.colour} />
      ))}
    </>
  );
}
