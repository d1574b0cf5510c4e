import type { Holding } from '@plinket/contract';
import { newId } from '../parts/new-id.ts';

/** A hand that goes over many lights says only where it rests, ms. */
const REST = 250;

/** Says to the others what this page has in hand; what cannot be said is said by the next that can. */
export class Holder {
  readonly client: string = newId();
  private lights: readonly string[] = [];
  private sequence: string | undefined;
  private heard = '';
  private cancel: () => void = () => undefined;
  private readonly send: (holding: Holding) => Promise<void>;
  private readonly after: (ms: number, then: () => void) => () => void;

  constructor(send: (holding: Holding) => Promise<void>, after: (ms: number, then: () => void) => () => void) {
    this.send = send;
    this.after = after;
  }

  hold(lights: readonly string[], sequence?: string): void {
    this.lights = lights;
    this.sequence = sequence;
    if (this.said() === this.heard) return;
    this.cancel();
    this.cancel = this.after(REST, () => this.say());
  }

  /** Says it now: the server has just begun to listen, and knows nothing. */
  say(): void {
    this.cancel();
    const said = this.said();
    this.heard = said;
    this.send(JSON.parse(said) as Holding).catch(() => {
      if (this.heard === said) this.heard = '';
    });
  }

  stop(): void {
    this.cancel();
  }

  private said(): string {
    return JSON.stringify({ client: this.client, lights: this.lights, ...(this.sequence ? { sequence: this.sequence } : {}) });
  }
}
