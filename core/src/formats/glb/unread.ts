// What a file has that is not read, in words: nothing goes missing without being named.

/** Extensions that are read; a file that cannot do without any other is refused. */
export const READ_EXTENSIONS: ReadonlySet<string> = new Set([
  'KHR_materials_clearcoat',
  'KHR_materials_emissive_strength',
  'KHR_materials_ior',
  'KHR_materials_sheen',
  'KHR_materials_specular',
  'KHR_materials_transmission',
  'KHR_materials_unlit',
  'KHR_texture_transform',
  'KHR_mesh_quantization',
  'EXT_meshopt_compression',
  'KHR_draco_mesh_compression',
]);

/** What extensions that are not read would bring, in the trade's words. */
const BRINGS: Record<string, string> = {
  KHR_lights_punctual: 'lights',
  KHR_materials_anisotropy: 'anisotropy',
  KHR_materials_diffuse_transmission: 'diffuse transmission',
  KHR_materials_dispersion: 'dispersion',
  KHR_materials_iridescence: 'iridescence',
  KHR_materials_pbrSpecularGlossiness: 'specular-glossiness materials',
  KHR_materials_variants: 'variants of materials',
  KHR_materials_volume: 'volume within surfaces',
  EXT_mesh_gpu_instancing: 'copies of meshes by instancing',
};
/** What of extensions that are read is left out: their pictures. */
const PICTURES: Record<string, string> = {
  KHR_materials_clearcoat: 'clear coat',
  KHR_materials_sheen: 'sheen',
  KHR_materials_specular: 'specular',
  KHR_materials_transmission: 'transmission',
};

const objects = (value: unknown): Record<string, unknown>[] =>
  Array.isArray(value) ? value.filter((v): v is Record<string, unknown> => typeof v === 'object' && v !== null) : [];

/** What is left out, each once; cameras and lights too. */
export function unreadOf(json: Record<string, unknown>): string[] {
  const out = new Set<string>();
  const used = Array.isArray(json['extensionsUsed']) ? json['extensionsUsed'] : [];
  for (const name of used) {
    if (typeof name !== 'string' || READ_EXTENSIONS.has(name) || name === 'EXT_texture_webp') continue;
    out.add(BRINGS[name] ?? name);
  }
  for (const { extensions } of objects(json['materials'])) {
    if (typeof extensions !== 'object' || extensions === null) continue;
    for (const [name, what] of Object.entries(PICTURES)) {
      const of = (extensions as Record<string, unknown>)[name];
      if (typeof of === 'object' && of !== null && Object.keys(of).some((key) => key.endsWith('Texture'))) out.add(`pictures of ${what}`);
    }
  }
  // one that comes in a second form is read in that
  for (const { source, extensions } of objects(json['textures']))
    if (source === undefined && typeof extensions === 'object' && extensions !== null && 'EXT_texture_webp' in extensions)
      out.add('pictures in WebP');
  if (objects(json['cameras']).length > 0) out.add('cameras');
  return [...out];
}
