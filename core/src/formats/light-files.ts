import { makeEnvironment, profileFlux, peakOf, type Environment, type GoboPattern, type Profile } from '../light/index.ts';
import { sharedFloats } from '../math/index.ts';
import { decodeSrgb } from '../photometry/index.ts';
import type { LightFiles } from '../scene/index.ts';
import type { LightFileUse } from '../setup/index.ts';
import { fitsNot } from './character/index.ts';
import { layersOf, readExr } from './exr/index.ts';
import { decodePicture, PictureError } from './glb/index.ts';
import { readHdr } from './hdr/index.ts';
import { ProfileError, readProfile } from './ies/index.ts';
import { atMost, RadianceError, type RadiancePicture } from './radiance.ts';

/** Widest picture of a dome that is traced; wider ones are averaged down. */
const WIDEST = 2048;
const WIDEST_GOBO = 1024;

/** What a file that a light can name turned out to be, in short. */
export type LightFileReport =
  | { kind: 'dome'; width: number; height: number; layers: string[]; notes: string[] }
  | { kind: 'profile'; name: string; peak: number; flux: number; watts: number; notes: string[] }
  | { kind: 'gobo'; width: number; height: number; notes: string[] };

/** A file that no light can use, with the reason in words. */
export class LightFileError extends Error {}

const text = (bytes: Uint8Array): string => {
  let out = '';
  for (let i = 0; i < bytes.length; i += 8192) out += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return out;
};

const isHdr = (b: Uint8Array): boolean => b[0] === 0x23 && b[1] === 0x3f;
const isExr = (b: Uint8Array): boolean => b[0] === 0x76 && b[1] === 0x2f && b[2] === 0x31 && b[3] === 0x01;
/** The first bytes of a PNG. */
export const isPng = (b: Uint8Array): boolean => b[0] === 0x89 && b[1] === 0x50;

/** @param layer of an .exr; '' and nothing are its first */
const readDome = (bytes: Uint8Array, layer?: string): RadiancePicture =>
  isHdr(bytes) ? readHdr(bytes) : readExr(bytes, layer || undefined);

function readGobo(bytes: Uint8Array): GoboPattern {
  const { width, height, data } = decodePicture(bytes, 'image/png', 'The picture');
  const k = Math.ceil(Math.max(width, height) / WIDEST_GOBO),
    across = Math.min(k, width),
    down = Math.min(k, height),
    w = Math.floor(width / across),
    h = Math.floor(height / down);
  const rgb = sharedFloats(w * h * 3);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let j = 0; j < down; j++)
          for (let i = 0; i < across; i++) {
            const p = ((y * down + j) * width + x * across + i) * 4;
            // what is transparent lets nothing through but its own colour: black
            sum += (decodeSrgb(data[p + c]! / 255) * data[p + 3]!) / 255;
          }
        rgb[(y * w + x) * 3 + c] = sum / (across * down);
      }
  return { width: w, height: h, rgb };
}

/**
 * Says what a file is for a light: a picture of a dome (.hdr, .exr), a photometric profile (.ies), a gobo (.png).
 * @throws LightFileError with the reason.
 */
export function inspectLightFile(bytes: Uint8Array): LightFileReport {
  try {
    if (isHdr(bytes) || isExr(bytes)) {
      const { width, height, notes } = readDome(bytes);
      return { kind: 'dome', width, height, layers: isExr(bytes) ? layersOf(bytes) : [''], notes };
    }
    if (isPng(bytes)) {
      const { width, height } = decodePicture(bytes, 'image/png', 'The picture');
      return { kind: 'gobo', width, height, notes: [] };
    }
    const words = text(bytes.subarray(0, 4_000_000));
    if (/TILT\s*=/i.test(words) || /^\s*IESNA/i.test(words)) {
      const { profile, name, watts, notes } = readProfile(words);
      return { kind: 'profile', name, peak: peakOf(profile), flux: profileFlux(profile), watts, notes };
    }
  } catch (error) {
    if (error instanceof RadianceError || error instanceof ProfileError || error instanceof PictureError)
      throw new LightFileError(error.message);
    // what a reader did not look for
    throw new LightFileError(fitsNot(error));
  }
  throw new LightFileError('This is no .hdr, .exr, .ies or .png: its beginning is none of theirs.');
}

/** What files become for lights. */
export type ReadLightFile = Environment | Profile | GoboPattern;

const keyOf = (sha256: string, use: LightFileUse): string =>
  use.kind === 'environment' ? `dome ${sha256} ${use.layer}` : `${use.kind} ${sha256}`;

/** Makes of a file what a light wants of it. @throws Error with the reason */
export function readLightFile(bytes: Uint8Array, sha256: string, use: LightFileUse): ReadLightFile {
  if (use.kind === 'profile') return readProfile(text(bytes)).profile;
  if (use.kind === 'gobo') return readGobo(bytes);
  const { width, height, rgb } = atMost(readDome(bytes, use.layer), WIDEST);
  const shared = sharedFloats(rgb.length);
  shared.set(rgb);
  return makeEnvironment(keyOf(sha256, use), width, height, shared);
}

/** Files that lights name, each read once: when it is asked for, or by somebody else before. */
export class LightFileShelf implements LightFiles {
  private readonly bytes = new Map<string, Uint8Array>();
  private readonly read = new Map<string, ReadLightFile>();

  has(sha256: string): boolean {
    return this.bytes.has(sha256);
  }
  add(sha256: string, bytes: Uint8Array): void {
    this.bytes.set(sha256, bytes);
  }
  /** Whether a file was read for this. */
  knows(sha256: string, use: LightFileUse): boolean {
    return this.read.has(keyOf(sha256, use));
  }
  /** Keeps what somebody else has read. */
  keep(sha256: string, use: LightFileUse, value: ReadLightFile): void {
    this.read.set(keyOf(sha256, use), value);
  }

  private once<T extends ReadLightFile>(sha256: string, use: LightFileUse): T | undefined {
    const bytes = this.bytes.get(sha256);
    if (bytes && !this.knows(sha256, use)) this.keep(sha256, use, readLightFile(bytes, sha256, use));
    return this.read.get(keyOf(sha256, use)) as T | undefined;
  }

  environment(sha256: string, layer: string): Environment | undefined {
    return this.once(sha256, { kind: 'environment', layer });
  }
  profile(sha256: string): Profile | undefined {
    return this.once(sha256, { kind: 'profile' });
  }
  gobo(sha256: string): GoboPattern | undefined {
    return this.once(sha256, { kind: 'gobo' });
  }
}
