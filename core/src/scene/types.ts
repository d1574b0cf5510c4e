import type { RayMesh } from '@plinket/kernel';
import type { Vec3 } from '../math/index.ts';
import type { Material } from '../surface/index.ts';
import type { ObjectRef, Reach } from '../setup/index.ts';
import type { Environment, Optics, Rectangle, Shape } from '../light/index.ts';

/** Everything a ray can meet, as flat arrays. Clear triangles come last (`mesh.clearFrom`). */
export interface SceneGeometry {
  key: string;
  mesh: RayMesh;
  /** Shading normal of each vertex. */
  normals: Float32Array;
  /** Linear colour of each vertex, multiplied with its material's base. */
  colours: Float32Array;
  /** Texture coordinates of each vertex; empty when no material carries a picture. */
  uvs: Float32Array;
  /** Material and object of each triangle. */
  triangleMaterial: Uint16Array;
  triangleObject: Uint16Array;
  materials: Material[];
  /** The objects that triangles belong to. */
  objects: ObjectRef[];
}

/** A camera: a pinhole, or a thin lens. */
export interface SceneCamera {
  key: string;
  origin: Vec3;
  forward: Vec3;
  right: Vec3;
  up: Vec3;
  /** Half the frame's height at distance 1. */
  halfHeight: number;
  /** Width to height of the frame; it is fitted into any picture, and more of the scene shows around it. */
  aspect: number;
  /** Radius of the opening and distance of the plane in focus, metres. */
  lens?: { radius: number; focus: number };
}

/** Homogeneous haze: grey, everywhere. */
export interface Haze {
  /** Extinction by scattering, 1/m. */
  density: number;
  /** Henyey and Greenstein's g, −1…1: positive scatters forwards. */
  anisotropy: number;
}

/** What an artist bends about a light: a shadow that takes less than all, an image that mirrors do not show. */
export interface Bent {
  cast: boolean;
  /** What stays in the shadow, red, green, blue: 0 where it takes all. */
  stays: Vec3;
  mirror: boolean;
}

interface LightBase {
  id: string;
  key: string;
  /** The camera sees the source itself. */
  camera?: boolean;
  bent?: Bent;
  /** Which objects it lights, and which cast its shadow; without it, all. */
  reach?: Partial<Reach>;
}

/** A light as rays see it: luminance 1 cd/m², white; level and colour belong to balance. */
export type SceneLight = LightBase &
  (
    | { kind: 'rectangle'; rectangle: Rectangle }
    /** Any shape, and what shapes its light on the way. */
    | { kind: 'source'; shape: Shape; optics?: Optics }
    | { kind: 'dome' }
    /** A picture over directions; `axes` are its own x y z in the world. */
    | { kind: 'environment'; environment: Environment; axes: [Vec3, Vec3, Vec3]; optics?: Optics }
    /** All surfaces that give light of their own, as bright as their materials say. */
    | { kind: 'glow' }
    /** All surfaces of one object, evenly bright. */
    | { kind: 'object'; object: ObjectRef }
    /** Not a light: how open the first surface lies, within `reach` metres (ambient occlusion), in the diffuse layer. */
    | { kind: 'openness'; reach: number }
  );

/** Objects of the geometry that show nothing but the shadows on them. */
export interface Catchers {
  objects: readonly ObjectRef[];
  /** Also what others throw on them, and what they mirror: paths go on from them. */
  follow: boolean;
}

/**
 * What `compile` makes of a setup. Same key, nothing to do: a changed light key costs that light's film, a changed
 * camera, haze or geometry key costs all films, anything else costs no ray.
 */
export interface Scene {
  geometry: SceneGeometry;
  camera: SceneCamera;
  haze?: Haze;
  catchers?: Catchers;
  lights: SceneLight[];
}
