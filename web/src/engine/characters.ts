import {
  chooseProxy,
  headProxy,
  LANDMARK_NAMES,
  proposeLandmarks,
  proxyAt,
  readGlb,
  standIn,
  writeGlb,
  type CharacterAsset,
  type FigureProxy,
  type HeadFrame,
  type ReadOptions,
  type StandIn,
  type Subject,
} from '@plinket/core';
import { bufferOf, type Read } from './bring.ts';
import { reportOf, type HeadReport } from './messages.ts';

/** Triangles of a figure in the set view: software graphics draw no more in time. */
const PROXY_TRIANGLES = 5500;
/** Triangles of a head that is pointed at: less than a millimetre off its surface. */
const HEAD_TRIANGLES = 16000;

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

/** The characters that the engine's worker knows: those that are kept, by SHA-256, and stand-ins. */
export class Characters {
  /** What has been read so far. */
  readonly known = new Map<string, CharacterAsset>();
  private readonly read = new Once<CharacterAsset>();
  private readonly chosen = new Once<Awaited<ReturnType<typeof chooseProxy>>>();
  private readonly fetchBlob: (sha256: string, what: string) => Promise<Uint8Array>;
  private readonly decoders: ReadOptions;

  constructor(fetchBlob: (sha256: string, what: string) => Promise<Uint8Array>, decoders: ReadOptions) {
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

  /** A kept character in few triangles, at a pose. */
  async proxy(sha256: string, name: string, pose: Subject['pose']): Promise<FigureProxy> {
    const asset = await this.load(sha256, name);
    return proxyAt(asset, await this.chosen.get(sha256, () => chooseProxy(asset, PROXY_TRIANGLES)), pose);
  }

  /** A kept character's head, at rest, with the landmarks that its file has or its surface proposes. */
  async head(sha256: string, name: string, head: HeadFrame): Promise<HeadReport> {
    const asset = await this.load(sha256, name);
    const proxy = await headProxy(asset, head, HEAD_TRIANGLES);
    const given = LANDMARK_NAMES.filter((n) => asset.landmarks[n]);
    const proposed = proposeLandmarks(asset.parts, head);
    return { proxy, given: Object.fromEntries(given.map((n) => [n, asset.landmarks[n]!])), proposed };
  }

  /** A stand-in as a file to be kept. */
  async standIn(kind: StandIn): Promise<Read> {
    const asset = standIn(kind);
    return { report: reportOf(asset, asset.name), glb: bufferOf(await writeGlb(asset, 'stand-in')) };
  }
}
