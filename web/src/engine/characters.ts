import {
  chooseProxy,
  mendGlb,
  mends,
  proxyAt,
  readCharacter,
  readGlb,
  standIn,
  writeGlb,
  type CharacterAsset,
  type FigureProxy,
  type MeshDecoders,
  type Mending,
  type StandIn,
  type Subject,
} from '@plinket/core';
import { reportOf, type AssetReport } from './messages.ts';

/** What was found in a character's file, and the GLB to keep. */
export interface Read {
  report: AssetReport;
  glb: ArrayBuffer;
}

/** Triangles of a figure in the set view: software graphics draw no more in time. */
const PROXY_TRIANGLES = 5500;

const bufferOf = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;

/** One answer for each key, asked for once however many want it; what failed is tried again when it is asked again. */
class Once<T> {
  private readonly answers = new Map<string, Promise<T>>();
  get(key: string, make: () => Promise<T>): Promise<T> {
    let answer = this.answers.get(key);
    if (!answer) {
      answer = make();
      this.answers.set(key, answer);
      answer.catch(() => this.answers.delete(key));
    }
    return answer;
  }
}

/** The characters that the engine's worker knows: those that are kept, by SHA-256, and those that are being brought in. */
export class Characters {
  /** What has been read so far. */
  readonly known = new Map<string, CharacterAsset>();
  private readonly read = new Once<CharacterAsset>();
  private readonly chosen = new Once<Awaited<ReturnType<typeof chooseProxy>>>();
  private readonly fetchBlob: (sha256: string, what: string) => Promise<Uint8Array>;
  private readonly decoders: MeshDecoders;

  constructor(fetchBlob: (sha256: string, what: string) => Promise<Uint8Array>, decoders: MeshDecoders) {
    this.fetchBlob = fetchBlob;
    this.decoders = decoders;
  }

  /** A character that is kept. @throws Error when it cannot be had, ImportError when it cannot be read */
  load(sha256: string, name: string): Promise<CharacterAsset> {
    return this.read.get(sha256, async () => {
      const asset = await readGlb(await this.fetchBlob(sha256, `The file of ${name}`), name, this.decoders);
      this.known.set(sha256, asset);
      return asset;
    });
  }

  /** Reads a file with what came beside it; what is no GLB becomes one. @throws ImportError */
  async inspect([{ name, bytes }, ...others]: [
    { name: string; bytes: ArrayBuffer },
    ...{ name: string; bytes: ArrayBuffer }[],
  ]): Promise<Read> {
    const beside = new Map(others.map((f) => [f.name, new Uint8Array(f.bytes)]));
    const asset = await readCharacter(new Uint8Array(bytes), name, { beside, ...this.decoders });
    const own = String.fromCharCode(...new Uint8Array(bytes, 0, Math.min(4, bytes.byteLength))) === 'glTF';
    return { report: reportOf(asset, name), glb: own ? bytes : bufferOf(await writeGlb(asset, name)) };
  }

  /** A character mended before it is kept. @throws ImportError */
  async mend(name: string, glb: ArrayBuffer, mending: Mending): Promise<Read> {
    const { glb: bytes, notes } = mends(mending)
      ? await mendGlb(new Uint8Array(glb), mending, this.decoders)
      : { glb: new Uint8Array(glb), notes: [] };
    const report = reportOf(await readGlb(bytes, name, this.decoders), name);
    return { report: { ...report, notes }, glb: bufferOf(bytes) };
  }

  /** A kept character in few triangles, at a pose. */
  async proxy(sha256: string, name: string, pose: Subject['pose']): Promise<FigureProxy> {
    const asset = await this.load(sha256, name);
    return proxyAt(asset, await this.chosen.get(sha256, () => chooseProxy(asset, PROXY_TRIANGLES)), pose);
  }

  /** A stand-in as a file to be kept. */
  async standIn(kind: StandIn): Promise<Read> {
    const asset = standIn(kind);
    return { report: reportOf(asset, asset.name), glb: bufferOf(await writeGlb(asset, 'stand-in')) };
  }
}
