// Skins, morph targets and clips against three.js: its loader, mixer and skinned meshes are the second opinion.
import { Document, NodeIO } from '@gltf-transform/core';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { AnimationMixer, Vector3, type Mesh, type SkinnedMesh } from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { readGlb } from '../formats/index.ts';
import { smoothNormals } from '../geometry/index.ts';
import { channelAt, partsAt, type CharacterAsset, type Channel } from './index.ts';

/** A tentacle of four joints, and a lid that morphs; a clip of all paths and interpolations. */
async function tentacle(spoil: (d: Document) => void = () => undefined): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const vec = (type: 'VEC3' | 'VEC4' | 'MAT4' | 'SCALAR', a: Float32Array | Uint16Array | Uint32Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(a as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const rings = 13,
    sides = 8;
  const p: number[] = [],
    n: number[] = [],
    j: number[] = [],
    w: number[] = [],
    index: number[] = [];
  for (let i = 0; i < rings; i++)
    for (let k = 0; k < sides; k++) {
      const a = (k / sides) * 2 * Math.PI,
        y = i * 0.1;
      p.push(0.1 * Math.cos(a), y, 0.1 * Math.sin(a));
      n.push(Math.cos(a), 0, Math.sin(a));
      const at = Math.min(2.999, y / 0.4),
        low = Math.floor(at),
        f = at - low;
      j.push(low, Math.min(3, low + 1), 0, 0);
      w.push(1 - f, f, 0, 0);
      if (i + 1 < rings) {
        const o = i * sides + k,
          q = i * sides + ((k + 1) % sides);
        index.push(o, o + sides, q, q, o + sides, q + sides);
      }
    }
  const scene = d.createScene('tentacle');
  const joints = Array.from({ length: 4 }, (_, i) => d.createNode(`joint ${i}`).setTranslation(i ? [0, 0.4, 0] : [0.2, 0.1, 0]));
  joints.forEach((node, i) => (i ? joints[i - 1]!.addChild(node) : scene.addChild(node)));
  const inverse = new Float32Array(64);
  for (let i = 0; i < 4; i++) inverse.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0.4 * i, 0, 1], i * 16);
  const skin = d.createSkin().setInverseBindMatrices(vec('MAT4', inverse));
  for (const node of joints) skin.addJoint(node);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', vec('VEC3', Float32Array.from(p)))
    .setAttribute('NORMAL', vec('VEC3', Float32Array.from(n)))
    .setAttribute('JOINTS_0', vec('VEC4', Uint16Array.from(j)))
    .setAttribute('WEIGHTS_0', vec('VEC4', Float32Array.from(w)))
    .setIndices(vec('SCALAR', Uint32Array.from(index)));
  scene.addChild(d.createNode('arm').setMesh(d.createMesh('arm').addPrimitive(primitive)).setSkin(skin));
  const lid = d
    .createPrimitive()
    .setAttribute('POSITION', vec('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0])))
    .setAttribute('NORMAL', vec('VEC3', Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1])))
    .addTarget(d.createPrimitiveTarget().setAttribute('POSITION', vec('VEC3', Float32Array.from([0, 0, 0.5, 0, 0, 0, 0.3, 0, 0]))))
    .addTarget(d.createPrimitiveTarget().setAttribute('POSITION', vec('VEC3', Float32Array.from([0, -0.2, 0, 0, 0.4, 0, 0, 0, 0]))));
  const lidNode = d
    .createNode('lid')
    .setMesh(d.createMesh('lid').addPrimitive(lid).setWeights([0.1, 0]))
    .setTranslation([1, 0, 0])
    .setScale([2, 1, 1]);
  scene.addChild(lidNode);
  const turn = (x: number, y: number, z: number) => {
    const l = Math.hypot(x, y, z),
      s = Math.sin(l / 2);
    return l ? [(x / l) * s, (y / l) * s, (z / l) * s, Math.cos(l / 2)] : [0, 0, 0, 1];
  };
  const animation = d.createAnimation('curl');
  const add = (
    node: ReturnType<Document['createNode']>,
    path: 'translation' | 'rotation' | 'scale' | 'weights',
    times: number[],
    type: 'VEC3' | 'VEC4' | 'SCALAR',
    values: number[],
    how: 'LINEAR' | 'STEP' | 'CUBICSPLINE' = 'LINEAR',
  ) => {
    const sampler = d
      .createAnimationSampler()
      .setInput(vec('SCALAR', Float32Array.from(times)))
      .setOutput(vec(type, Float32Array.from(values)))
      .setInterpolation(how);
    animation.addSampler(sampler).addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  };
  add(joints[1]!, 'rotation', [0, 0.7, 1.5], 'VEC4', [...turn(0, 0, 0), ...turn(0, 0, 1.2), ...turn(0.9, 0.3, -0.4)]);
  add(
    joints[2]!,
    'rotation',
    [0.2, 1.2],
    'VEC4',
    [0, 0, 0, 0, ...turn(0, 0, 0), 0.1, 0, 0.4, 0, 0.2, 0, 0, 0, ...turn(-1, 0.2, 0), 0, 0, 0, 0],
    'CUBICSPLINE',
  );
  add(joints[0]!, 'translation', [0, 1], 'VEC3', [0.2, 0.1, 0, 0.4, 0.3, -0.2]);
  add(joints[3]!, 'scale', [0, 0.5, 1], 'VEC3', [1, 1, 1, 1.5, 0.7, 1, 1, 1, 1], 'STEP');
  add(lidNode, 'weights', [0, 1.4], 'SCALAR', [0.1, 0, 1, 0.6]);
  add(lidNode, 'rotation', [0, 1.4], 'VEC4', [...turn(0, 0, 0), ...turn(0, 2, 0)]);
  spoil(d);
  return new NodeIO().writeBinary(d);
}

let asset: CharacterAsset, theirs: GLTF;
beforeAll(async () => {
  const bytes = await tentacle();
  asset = await readGlb(bytes, 'tentacle.glb');
  Object.assign(globalThis, { self: globalThis });
  theirs = await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, '');
});

/** Positions of a mesh of theirs in the world at a moment. */
function worldOf(name: string, time: number): number[] {
  const mixer = new AnimationMixer(theirs.scene);
  mixer.clipAction(theirs.animations[0]!).play();
  // a clip of theirs goes round: its very end is its beginning
  mixer.setTime(Math.min(time, theirs.animations[0]!.duration - 1e-5));
  theirs.scene.updateMatrixWorld(true);
  const mesh = theirs.scene.getObjectByName(name) as Mesh | SkinnedMesh;
  const v = new Vector3();
  const out: number[] = [];
  for (let i = 0; i < mesh.geometry.attributes['position']!.count; i++) {
    mesh.getVertexPosition(i, v);
    v.applyMatrix4(mesh.matrixWorld);
    out.push(v.x, v.y, v.z);
  }
  return out;
}

describe('a moment of a clip', () => {
  // moments drawn once; ends and keys among them
  it.each([0, 0.13, 0.2, 0.5, 0.7, 0.951, 1.2, 1.37, 1.499])('at %f s lies within 1e-4 m of three.js', (time) => {
    for (const part of partsAt(asset, { clip: 'curl', time })) {
      const wanted = worldOf(part.name, time);
      expect(part.positions).toHaveLength(wanted.length);
      let most = 0;
      part.positions.forEach((v, i) => (most = Math.max(most, Math.abs(v - wanted[i]!))));
      expect(most).toBeLessThan(1e-4);
    }
  });
  it('keeps normals of length 1, at right angles to the surface that they belong to', () => {
    const arm = partsAt(asset, { clip: 'curl', time: 0.7 }).find((p) => p.name === 'arm')!;
    // what the bent triangles themselves say; the open ends and the sharpest bends are off by a little
    const wanted = smoothNormals(arm.positions, arm.indices);
    let sum = 0;
    for (let i = 0; i < arm.normals.length; i += 3) {
      expect(Math.hypot(arm.normals[i]!, arm.normals[i + 1]!, arm.normals[i + 2]!)).toBeCloseTo(1, 4);
      const dot = [0, 1, 2].reduce((d, k) => d + arm.normals[i + k]! * wanted[i + k]!, 0);
      expect(dot).toBeGreaterThan(0.5);
      sum += dot;
    }
    expect((sum * 3) / arm.normals.length).toBeGreaterThan(0.95);
  });
  it('without a clip, or with one that is not there, the character stands at rest; the last moment is remembered', () => {
    expect(partsAt(asset, undefined)).toBe(asset.parts);
    expect(partsAt(asset, { clip: 'swim', time: 1 })).toBe(asset.parts);
    expect(partsAt(asset, { clip: 'curl', time: 0.5 })).toBe(partsAt(asset, { clip: 'curl', time: 0.5 }));
    expect(asset.rig!.clips.map((c) => [c.name, Number(c.duration.toFixed(3))])).toEqual([['curl', 1.5]]);
  });
});

describe('channels', () => {
  const channel = (more: Partial<Channel>): Channel => ({
    node: 0,
    path: 'translation',
    times: Float32Array.of(1, 2),
    values: Float32Array.of(0, 0, 0, 2, 4, 6),
    interpolation: 'LINEAR',
    ...more,
  });
  it('hold before the first and after the last key', () => {
    expect(channelAt(channel({}), 0)).toEqual([0, 0, 0]);
    expect(channelAt(channel({}), 1.5)).toEqual([1, 2, 3]);
    expect(channelAt(channel({}), 9)).toEqual([2, 4, 6]);
    expect(channelAt(channel({ interpolation: 'STEP' }), 1.99)).toEqual([0, 0, 0]);
  });
  it('turn the short way', () => {
    const q = channelAt(channel({ path: 'rotation', values: Float32Array.of(0, 0, 0, 1, 0, 0, 0, -1) }), 1.5);
    expect(Math.abs(q[3]!)).toBeCloseTo(1, 6);
  });
});

describe('broken rigs', () => {
  it('weights that do not add up are made to, and said', async () => {
    const bytes = await tentacle((d) => {
      const weights = d.getRoot().listMeshes()[0]!.listPrimitives()[0]!.getAttribute('WEIGHTS_0')!;
      for (let i = 0; i < 5; i++) weights.setElement(i, [0.25, 0.25, 0, 0]);
    });
    const broken = await readGlb(bytes, 'a.glb');
    expect(broken.warnings.map((w) => w.message).join()).toContain('the weights of 5 vertices did not add up to 1');
    const arm = partsAt(broken, { clip: 'curl', time: 0.6 }).find((p) => p.name === 'arm')!;
    expect(arm.positions.every((v) => Number.isFinite(v))).toBe(true);
  });
  it('channels without a target are left out, and said', async () => {
    const bytes = await tentacle((d) => d.getRoot().listAnimations()[0]!.listChannels()[0]!.setTargetNode(null));
    const broken = await readGlb(bytes, 'a.glb');
    expect(broken.rig!.clips[0]!.channels).toHaveLength(5);
    expect(broken.warnings.map((w) => w.code)).toContain('animation');
  });
});
