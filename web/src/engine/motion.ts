import {
  atTime,
  compile,
  named,
  readMoment,
  type CharacterAsset,
  type LightFiles,
  type MomentEyes,
  type Scene,
  type Setup,
} from '@plinket/core';
import type { Pool } from '@plinket/engine';
import type { MomentReport, MotionReport } from './messages.ts';

/** Reads a face over a motion, with workers of its own: the picture goes on. */
export class MotionReader {
  private readonly open: () => Promise<Pool>;
  private readonly files: LightFiles;
  private readonly tell: (report: MotionReport) => void;
  /** The reading that goes on; a new one ends it. */
  private run = 0;

  constructor(open: () => Promise<Pool>, files: LightFiles, tell: (report: MotionReport) => void) {
    this.open = open;
    this.files = files;
    this.tell = tell;
  }

  stop(): void {
    this.run++;
  }

  /** Reads the moments one after the other and tells each; ends when it is stopped. What goes wrong is told. */
  async read(setup: Setup, subject: string, asset: (sha: string) => CharacterAsset | undefined, times: readonly number[]): Promise<void> {
    const mine = ++this.run;
    const moments: MomentReport[] = [];
    const tell = (more: Partial<MotionReport>) =>
      this.tell({ type: 'motion', moments: [...moments], of: times.length, done: false, ...more });
    tell({});
    let pool: Pool | undefined;
    try {
      pool = await this.open();
      const eyes: MomentEyes = { ...pool.eyes, read: (job) => pool!.read(job) };
      const character = asset(setup.subjects.items[subject]!.asset)!;
      let scene: Scene | undefined;
      for (const time of times) {
        if (mine !== this.run) break;
        const posed = atTime(setup, subject, character, time);
        scene = compile(posed, asset, scene, { files: this.files });
        pool.setGeometry(scene.geometry);
        const { reading, over, meets } = await readMoment(eyes, posed, scene, subject, character);
        const pattern = named(reading.byKey)?.pattern;
        moments.push({
          time,
          over,
          meets,
          lit: reading.features?.lit ?? 0,
          ...(pattern ? { pattern } : {}),
          ...(reading.ratio ? { ratio: reading.ratio.value } : {}),
        });
        tell({});
      }
      if (mine === this.run) tell({ done: true });
    } catch (error) {
      if (mine === this.run) tell({ done: true, failed: error instanceof Error ? error.message : String(error) });
    } finally {
      pool?.close();
    }
  }
}
