import { decodeSrgb } from '../../photometry/index.ts';
import { material, type Material } from '../../surface/index.ts';
import { ImportError } from '../character/index.ts';

/**
 * Reads a material file: diffuse colour, dissolve, and the physically based extension (Pr, Pm, Ke) where it is there; a shininess
 * exponent becomes a roughness by (2 / (n + 2))^¼, as Blinn–Phong lobes and GGX's alpha relate (Walter 2007, section 5.2).
 * @throws ImportError that names the line and the reason.
 */
export function readMtl(text: string, fileName: string): Map<string, Material> {
  const out = new Map<string, Material>();
  let name = '';
  let now: Parameters<typeof material>[0] | undefined;
  const keep = () => {
    if (now) out.set(name, material(now));
  };
  text.split(/\r\n|\n|\r/).forEach((line, n) => {
    const [word, ...rest] = line.replace(/#.*/, '').trim().split(/\s+/);
    if (word === 'newmtl') {
      keep();
      name = rest.join(' ');
      now = { name, base: [0.5, 0.5, 0.5], roughness: 0.6 };
      return;
    }
    if (!now || !word) return;
    const numbers = () =>
      rest.map((w) => {
        const v = Number(w);
        if (!Number.isFinite(v)) throw new ImportError('broken', `${fileName}, line ${n + 1}: “${w}” is no number.`);
        return v;
      });
    const colour = (): [number, number, number] => {
      const [r = 0, g = r, b = r] = numbers();
      // written as they look: sRGB
      return [r, g, b].map((v) => decodeSrgb(Math.min(1, Math.max(0, v)))) as [number, number, number];
    };
    if (word === 'Kd') now = { ...now, base: colour() };
    else if (word === 'Ns') now = { ...now, roughness: Math.min(1, (2 / ((numbers()[0] ?? 0) + 2)) ** 0.25) };
    else if (word === 'Pr') now = { ...now, roughness: Math.min(1, Math.max(0, numbers()[0] ?? 0.6)) };
    else if (word === 'Pm') now = { ...now, metallic: Math.min(1, Math.max(0, numbers()[0] ?? 0)) };
  });
  keep();
  return out;
}
