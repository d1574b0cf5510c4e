import { decodeSrgb } from '../../photometry/index.ts';
import type { material } from '../../surface/index.ts';
import { ImportError } from '../character/index.ts';

/** A material as its file has it: what it looks like, and the names of its pictures. */
export interface MtlMaterial {
  look: NonNullable<Parameters<typeof material>[0]>;
  base?: string;
  /** Heights, or normals where the picture holds these; and how much of them. */
  bump?: { name: string; times: number };
  emission?: string;
  alpha?: string;
}

/** Numbers or words that follow the options of a map (the published description of the format), most of them. */
const OPTIONS: Record<string, number> = {
  '-blendu': 1,
  '-blendv': 1,
  '-boost': 1,
  '-bm': 1,
  '-cc': 1,
  '-clamp': 1,
  '-imfchan': 1,
  '-mm': 2,
  '-o': 3,
  '-s': 3,
  '-t': 3,
  '-texres': 1,
  '-type': 1,
};

/** The name of a map's picture behind its options, which may hold spaces, and its bump multiplier. */
function mapOf(words: readonly string[]): { name: string; times: number } {
  let at = 0,
    times = 1;
  while (at < words.length - 1 && OPTIONS[words[at]!.toLowerCase()] !== undefined) {
    const option = words[at]!.toLowerCase(),
      most = OPTIONS[option]!;
    if (option === '-bm' && Number.isFinite(Number(words[at + 1]))) times = Number(words[at + 1]);
    at++;
    // of three numbers the last ones may be left out
    for (let k = 0; k < most && at < words.length - 1 && (most < 3 || Number.isFinite(Number(words[at]))); k++) at++;
  }
  return { name: words.slice(at).join(' '), times };
}

const unit = (v: number | undefined, otherwise: number): number => Math.min(1, Math.max(0, v ?? otherwise));

/**
 * Reads a material file: diffuse colour, dissolve, glow, and the physically based extension (Pr, Pm) where it is there, each with its picture; a shininess
 * exponent becomes a roughness by (2 / (n + 2))^¼, as Blinn–Phong lobes and GGX's alpha relate (Walter 2007, section 5.2).
 * @throws ImportError that names the line and the reason.
 */
export function readMtl(text: string, fileName: string): Map<string, MtlMaterial> {
  const out = new Map<string, MtlMaterial>();
  let now: MtlMaterial | undefined;
  text.split(/\r\n|\n|\r/).forEach((line, n) => {
    const [word, ...rest] = line.replace(/#.*/, '').trim().split(/\s+/);
    if (word === 'newmtl') {
      const name = rest.join(' ');
      now = { look: { name, base: [0.5, 0.5, 0.5], roughness: 0.6 } };
      out.set(name, now);
      return;
    }
    if (!now || !word) return;
    const { look } = now;
    const numbers = () =>
      rest.map((w) => {
        const v = Number(w);
        if (!Number.isFinite(v)) throw new ImportError('broken', `${fileName}, line ${n + 1}: “${w}” is no number.`);
        return v;
      });
    const three = (): [number, number, number] => {
      const [r = 0, g = r, b = r] = numbers();
      return [r, g, b];
    };
    const clear = (alpha: number): void => {
      look.alpha = alpha;
      if (alpha < 1) look.alphaMode = 'blend';
    };
    switch (word) {
      case 'Kd':
        // written as they look: sRGB
        look.base = three().map((v) => decodeSrgb(unit(v, 0))) as [number, number, number];
        return;
      case 'Ke':
        // light, which may be more than 1
        look.emission = three().map((v) => Math.max(0, v)) as [number, number, number];
        return;
      case 'd':
        return clear(unit(numbers().at(-1), 1));
      case 'Tr':
        return clear(1 - unit(numbers()[0], 0));
      case 'Ns':
        look.roughness = Math.min(1, (2 / (Math.max(0, numbers()[0] ?? 0) + 2)) ** 0.25);
        return;
      case 'Pr':
        look.roughness = unit(numbers()[0], 0.6);
        return;
      case 'Pm':
        look.metallic = unit(numbers()[0], 0);
        return;
      case 'map_Kd':
        now.base = mapOf(rest).name;
        return;
      case 'map_Ke':
        now.emission = mapOf(rest).name;
        return;
      case 'map_d':
        now.alpha = mapOf(rest).name;
        return;
      case 'norm':
      case 'bump':
      case 'map_bump':
      case 'map_Bump':
        now.bump = mapOf(rest);
    }
  });
  return out;
}
