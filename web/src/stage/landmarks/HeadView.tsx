import { axesOf, DEGREE, LANDMARK_NAMES, type HeadFrame, type LandmarkName, type Vec3 } from '@plinket/core';
import { Canvas, useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import { DoubleSide, PerspectiveCamera, Vector3 } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { HeadReport } from '../../engine/messages.ts';
import { useGeometry } from '../set/geometry.ts';
import { ASKED, type Marking } from './marking.ts';

/** Where the view looks and from how far, in heights of the head. */
const DISTANCE = 4.4,
  FOV = 20,
  BEHIND = 0.3;
/** How long the head takes to turn to the next landmark, ms. */
const TURN_MS = 420;

const at = (origin: Vec3, axes: [Vec3, Vec3, Vec3], p: Vec3): Vec3 =>
  [0, 1, 2].map((k) => origin[k]! + axes[0][k]! * p[0] + axes[1][k]! * p[1] + axes[2][k]! * p[2]) as Vec3;

/** The camera that goes round the head, by itself when another landmark is asked for and by hand at any time. */
function Turning({ head, now, point }: { head: HeadFrame; now: LandmarkName | undefined; point: Vec3 | undefined }) {
  const { camera, gl, invalidate } = useThree();
  const axes = useMemo(() => axesOf(head), [head]);
  const middle = useMemo(() => at(head.origin, axes, [0, -0.06 * head.height, -BEHIND * head.height]), [head, axes]);
  const turn = useRef<{ from: Vector3; to: Vector3; start: number }>(undefined);
  const controls = useMemo(() => new OrbitControls(camera, gl.domElement), [camera, gl]);

  useEffect(() => {
    controls.enableDamping = false;
    controls.enablePan = false;
    controls.minDistance = head.height;
    controls.maxDistance = 8 * head.height;
    const draw = () => invalidate();
    // a hand on it stops the turn
    const take = () => (turn.current = undefined);
    controls.addEventListener('change', draw);
    controls.addEventListener('start', take);
    return () => {
      controls.removeEventListener('change', draw);
      controls.removeEventListener('start', take);
      controls.dispose();
    };
  }, [controls, head, invalidate]);

  useEffect(() => {
    if (!(camera instanceof PerspectiveCamera)) return;
    camera.up.set(...axes[1]);
    camera.near = head.height * 0.05;
    camera.far = head.height * 30;
    camera.fov = FOV;
    camera.updateProjectionMatrix();
    controls.target.set(...middle);
    const [azimuth, elevation] = now ? ASKED[now].from : [0, 0];
    const [a, e] = [azimuth * DEGREE, elevation * DEGREE],
      far = DISTANCE * head.height;
    const to = new Vector3(...at(middle, axes, [far * Math.sin(a) * Math.cos(e), far * Math.sin(e), far * Math.cos(a) * Math.cos(e)]));
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches || camera.position.distanceTo(to) > 3 * far;
    if (still) {
      camera.position.copy(to);
      controls.update();
    } else turn.current = { from: camera.position.clone(), to, start: performance.now() };
    invalidate();
  }, [now, camera, controls, axes, middle, head, invalidate]);

  useFrame(() => {
    const moving = turn.current;
    if (moving) {
      const t = Math.min(1, (performance.now() - moving.start) / TURN_MS),
        eased = t * t * (3 - 2 * t);
      // on an arc: the distance to the head stays
      const centre = controls.target,
        far = moving.to.distanceTo(centre);
      camera.position.lerpVectors(moving.from, moving.to, eased).sub(centre).setLength(far).add(centre);
      if (t >= 1) turn.current = undefined;
      controls.update();
      invalidate();
    }
    camera.updateMatrixWorld();
    // where the landmark is on the canvas, in shares of it: for who reads the page instead of looking at it
    const p = point && new Vector3(...point).project(camera);
    gl.domElement.dataset['point'] = p && !turn.current ? `${((p.x + 1) / 2).toFixed(4)} ${((1 - p.y) / 2).toFixed(4)}` : '';
  });
  return null;
}

function Points({ marking, size }: { marking: Marking; size: number }) {
  return LANDMARK_NAMES.map((name) => {
    const { point, state } = marking.marks[name];
    if (!point || state === 'absent') return null;
    const held = name === marking.now;
    return (
      <mesh key={name} position={point} renderOrder={held ? 3 : 2} raycast={() => null}>
        <sphereGeometry args={[held ? size * 1.25 : size, 14, 10]} />
        <meshBasicMaterial
          color={held ? '#f5b82e' : state === 'confirmed' ? '#6fd3a8' : '#dddddd'}
          depthTest={held ? false : true}
          transparent
          opacity={held ? 0.9 : 1}
        />
      </mesh>
    );
  });
}

/** The head in even light, turned to the landmark that is asked for; a click on it says where that is. */
export function HeadView({
  report,
  head,
  marking,
  onPoint,
}: {
  report: HeadReport;
  head: HeadFrame;
  marking: Marking;
  onPoint(p: Vec3): void;
}) {
  const geometry = useGeometry(report.proxy, report.proxy.colours);
  const [x, y, z] = axesOf(head);
  const light = at(head.origin, [x, y, z], [-2 * head.height, 3 * head.height, 4 * head.height]);
  return (
    <Canvas
      frameloop="demand"
      flat
      dpr={1}
      gl={{ antialias: true, powerPreference: 'low-power' }}
      fallback={<p className="p-4">This browser draws no 3D here.</p>}
    >
      <hemisphereLight args={['#ffffff', '#777777', 1.3]} />
      <directionalLight position={light} intensity={1.6} />
      <mesh
        {...(geometry ? { geometry } : {})}
        onClick={(e) => {
          // a drag turns the head; only a still click points
          if (e.delta < 4) onPoint(e.point.toArray());
        }}
      >
        <meshLambertMaterial vertexColors side={DoubleSide} />
      </mesh>
      <Points marking={marking} size={head.height * 0.013} />
      <Turning head={head} now={marking.now} point={marking.now && marking.marks[marking.now].point} />
    </Canvas>
  );
}
