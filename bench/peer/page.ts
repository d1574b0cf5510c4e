// The other renderer's side of the peer bench: the same mesh, camera, rectangle lights and bounces in a WebGL path tracer.
import {
  Mesh,
  MeshStandardMaterial,
  BufferGeometry,
  BufferAttribute,
  PerspectiveCamera,
  RectAreaLight,
  Scene,
  WebGLRenderer,
  Color,
} from 'three';
import { WebGLPathTracer } from 'three-gpu-pathtracer';

export interface PeerScene {
  width: number;
  height: number;
  parts: { positions: number[]; normals: number[]; indices: number[]; base: [number, number, number]; roughness: number }[];
  camera: { position: [number, number, number]; target: [number, number, number]; fov: number };
  lights: { position: [number, number, number]; target: [number, number, number]; width: number; height: number }[];
  bounces: number;
}

async function run(what: PeerScene): Promise<{ first: number; sample: number; samples: number }> {
  const renderer = new WebGLRenderer({ antialias: false });
  renderer.setSize(what.width, what.height, false);
  document.body.append(renderer.domElement);
  const scene = new Scene();
  scene.background = new Color(0);
  for (const p of what.parts) {
    const g = new BufferGeometry();
    g.setAttribute('position', new BufferAttribute(Float32Array.from(p.positions), 3));
    g.setAttribute('normal', new BufferAttribute(Float32Array.from(p.normals), 3));
    g.setIndex(new BufferAttribute(Uint32Array.from(p.indices), 1));
    scene.add(new Mesh(g, new MeshStandardMaterial({ color: new Color(...p.base), roughness: p.roughness, metalness: 0 })));
  }
  for (const l of what.lights) {
    const light = new RectAreaLight(0xffffff, 10, l.width, l.height);
    light.position.set(...l.position);
    light.lookAt(...l.target);
    scene.add(light);
  }
  const camera = new PerspectiveCamera(what.camera.fov, what.width / what.height, 0.01, 100);
  camera.position.set(...what.camera.position);
  camera.lookAt(...what.camera.target);
  camera.updateMatrixWorld();
  scene.updateMatrixWorld(true);
  const tracer = new WebGLPathTracer(renderer);
  tracer.bounces = what.bounces + 1;
  tracer.tiles.set(1, 1);
  tracer.renderDelay = 0;
  tracer.fadeDuration = 0;
  tracer.minSamples = 0;
  tracer.dynamicLowRes = false;
  const gl = renderer.getContext();
  const pixel = new Uint8Array(4);
  /** Waits until the graphics work is really done. */
  const settle = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
  const start = performance.now();
  tracer.setScene(scene, camera);
  const until = async (samples: number) => {
    while (tracer.samples < samples) {
      tracer.renderSample();
      settle();
      await new Promise((resolve) => setTimeout(resolve, 0));
    }
  };
  await until(1);
  const first = performance.now() - start;
  const more = performance.now();
  await until(4);
  return { first, sample: (performance.now() - more) / 3, samples: tracer.samples };
}

Object.assign(window, { runPeer: run });
