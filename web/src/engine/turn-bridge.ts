import type { Setup, Turntable } from '@plinket/core';
import { engineUrls } from './urls.ts';
import type { FromTurn, ToTurn, TurnAsk, TurnFrame, TurnMeasure, TurnMoment } from './turn-messages.ts';

interface Asked {
  hear(message: FromTurn): void;
  resolve(): void;
  reject(error: Error): void;
}

/** Something that was asked for: when it is done, and how to have no more of it. */
export interface TurnWork {
  done: Promise<void>;
  stop(): void;
}

/** The page's end of the turntable's worker. */
export class TurnEngine {
  private readonly worker: Worker;
  private readonly asked = new Map<number, Asked>();
  private next = 1;

  constructor() {
    this.worker = new Worker(new URL('./turn-worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (event: MessageEvent<FromTurn>) => this.hear(event.data);
    this.worker.onerror = (event) => {
      for (const { reject } of this.asked.values()) reject(new Error(event.message || 'The engine could not be started.'));
      this.asked.clear();
    };
    this.post({ type: 'open', urls: engineUrls() });
  }

  private post(message: ToTurn): void {
    this.worker.postMessage(message);
  }

  private hear(message: FromTurn): void {
    const asked = this.asked.get(message.number);
    if (!asked) return;
    if (message.type === 'done' || message.type === 'failed') {
      this.asked.delete(message.number);
      if (message.type === 'done') asked.resolve();
      else asked.reject(new Error(message.message));
    } else asked.hear(message);
  }

  private ask(make: (number: number) => ToTurn, hear: (message: FromTurn) => void): TurnWork {
    const number = this.next++;
    let end: () => void = () => undefined;
    const done = new Promise<void>((resolve, reject) => {
      end = resolve;
      this.asked.set(number, { hear, resolve, reject });
    });
    this.post(make(number));
    return {
      done,
      stop: () => {
        if (!this.asked.delete(number)) return;
        this.post({ type: 'stop', number });
        end();
      },
    };
  }

  /** Traces frames and tells each; stopped, it ends without an error. */
  frames(ask: TurnAsk, told: (frame: TurnFrame) => void): TurnWork {
    return this.ask(
      (number) => ({ type: 'frames', number, ...ask }),
      (m) => m.type === 'frame' && told(m.frame),
    );
  }

  /** What the turn sweeps, against the safe frame. */
  measure(setup: Setup, plan: Turntable, told: (measure: TurnMeasure) => void): TurnWork {
    return this.ask(
      (number) => ({ type: 'measure', number, setup, plan }),
      (m) => m.type === 'measured' && told(m.measure),
    );
  }

  /** The face at so many angles; what is known so far is told now and then. */
  read(setup: Setup, plan: Turntable, angles: number, told: (moments: TurnMoment[]) => void): TurnWork {
    return this.ask(
      (number) => ({ type: 'read', number, setup, plan, angles }),
      (m) => m.type === 'moments' && told(m.moments),
    );
  }

  close(): void {
    this.worker.terminate();
  }
}
