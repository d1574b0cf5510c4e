// The JSON of glTF 2.0 as far as readers touch it (its published schema, Khronos, from memory): of another shape it is refused before anything believes it.
import { z } from 'zod';
import { ImportError } from '../character/index.ts';

const index = z.number().int().min(0);
const count = z.number().int().min(0);
const numbers = (n: number) => z.array(z.number()).length(n);
const named = { name: z.string().optional(), extensions: z.record(z.string(), z.looseObject({})).optional() };
const texture = z.looseObject({ index, texCoord: index.optional(), scale: z.number().optional(), strength: z.number().optional() });
const attributes = z.record(z.string(), index);

const gltfSchema = z.looseObject({
  asset: z.looseObject({ version: z.string(), minVersion: z.string().optional() }),
  scene: index.optional(),
  extensionsUsed: z.array(z.string()).optional(),
  extensionsRequired: z.array(z.string()).optional(),
  scenes: z.array(z.looseObject({ ...named, nodes: z.array(index).optional() })).optional(),
  nodes: z
    .array(
      z.looseObject({
        ...named,
        children: z.array(index).optional(),
        mesh: index.optional(),
        skin: index.optional(),
        camera: index.optional(),
        weights: z.array(z.number()).optional(),
        matrix: numbers(16).optional(),
        translation: numbers(3).optional(),
        rotation: numbers(4).optional(),
        scale: numbers(3).optional(),
      }),
    )
    .optional(),
  meshes: z
    .array(
      z.looseObject({
        ...named,
        weights: z.array(z.number()).optional(),
        primitives: z.array(
          z.looseObject({
            attributes,
            indices: index.optional(),
            material: index.optional(),
            mode: z.number().int().min(0).max(6).optional(),
            targets: z.array(attributes).optional(),
          }),
        ),
      }),
    )
    .optional(),
  accessors: z
    .array(
      z.looseObject({
        ...named,
        bufferView: index.optional(),
        byteOffset: count.optional(),
        count,
        componentType: z.union([5120, 5121, 5122, 5123, 5125, 5126].map((type) => z.literal(type))),
        type: z.enum(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4']),
        sparse: z
          .looseObject({
            count,
            indices: z.looseObject({ bufferView: index, byteOffset: count.optional() }),
            values: z.looseObject({ bufferView: index, byteOffset: count.optional() }),
          })
          .optional(),
      }),
    )
    .optional(),
  bufferViews: z
    .array(z.looseObject({ ...named, buffer: index, byteOffset: count.optional(), byteLength: count, byteStride: count.optional() }))
    .optional(),
  buffers: z.array(z.looseObject({ ...named, uri: z.string().optional(), byteLength: count })).optional(),
  images: z
    .array(z.looseObject({ ...named, uri: z.string().optional(), mimeType: z.string().optional(), bufferView: index.optional() }))
    .optional(),
  textures: z.array(z.looseObject({ ...named, source: index.optional(), sampler: index.optional() })).optional(),
  samplers: z.array(z.looseObject({})).optional(),
  materials: z
    .array(
      z.looseObject({
        ...named,
        pbrMetallicRoughness: z
          .looseObject({
            baseColorFactor: numbers(4).optional(),
            baseColorTexture: texture.optional(),
            metallicFactor: z.number().optional(),
            roughnessFactor: z.number().optional(),
            metallicRoughnessTexture: texture.optional(),
          })
          .optional(),
        normalTexture: texture.optional(),
        occlusionTexture: texture.optional(),
        emissiveTexture: texture.optional(),
        emissiveFactor: numbers(3).optional(),
        alphaMode: z.string().optional(),
        alphaCutoff: z.number().optional(),
        doubleSided: z.boolean().optional(),
      }),
    )
    .optional(),
  skins: z
    .array(z.looseObject({ ...named, joints: z.array(index), inverseBindMatrices: index.optional(), skeleton: index.optional() }))
    .optional(),
  animations: z
    .array(
      z.looseObject({
        ...named,
        channels: z.array(z.looseObject({ sampler: index, target: z.looseObject({ node: index.optional(), path: z.string() }) })),
        samplers: z.array(z.looseObject({ input: index, output: index, interpolation: z.string().optional() })),
      }),
    )
    .optional(),
  cameras: z.array(z.looseObject({ ...named, type: z.string() })).optional(),
});

/** The JSON of a glTF whose shape has been checked; what it points to has not. */
export type GltfJson = z.infer<typeof gltfSchema>;

/**
 * Checks the JSON of a glTF.
 * @throws ImportError: not-glb where it is no glTF, version, or broken with the member and the reason
 */
export function checkGltf(value: unknown): GltfJson {
  if (typeof value !== 'object' || value === null || !('asset' in value))
    throw new ImportError('not-glb', 'It is JSON, but no glTF: it has no asset.');
  const { data, error } = gltfSchema.safeParse(value);
  if (error) {
    const { path, message } = error.issues[0]!;
    throw new ImportError('broken', `Its JSON is not of a glTF’s shape: ${path.join('.')}: ${message}`);
  }
  if (!/^2\./.test(data.asset.version) && data.asset.version !== '2')
    throw new ImportError('version', `glTF version ${data.asset.version} is not supported; version 2.0 is.`);
  return data;
}
