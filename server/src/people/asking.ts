import { AsyncLocalStorage } from 'node:async_hooks';
import type { Role } from '@plinket/contract';

/** Who asks: somebody who has signed in, or a program, which has no account. */
export interface Asker {
  account?: string;
  name: string;
  role: Role;
}

/** Who asks for what is being done, known to everything that is done for it; nobody where nobody needs to sign in. */
export class Asking {
  private readonly store = new AsyncLocalStorage<Asker>();

  run<T>(asker: Asker, work: () => T): T {
    return this.store.run(asker, work);
  }

  get current(): Asker | undefined {
    return this.store.getStore();
  }
}
