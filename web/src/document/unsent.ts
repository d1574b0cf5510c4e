import { applyVersion, diff, parseSetup, SCHEMA_VERSION, type Patch, type Setup } from '@plinket/core';
import type { Unsent } from './sync.ts';

// Changes that are not yet saved are kept in the browser, where a reload finds them; each window keeps its own, so that two windows of one
// setup do not lose each other's.

const prefix = (id: string): string => `plinket:unsent:${id}`;
const isPatch = (v: unknown): v is Patch => typeof v === 'object' && v !== null && !Array.isArray(v);

/** What was kept, in today's form; before version 5 of the documents it was a bare patch. */
export function readUnsent(text: string | null): Unsent | undefined {
  if (text === null) return undefined;
  try {
    const value: unknown = JSON.parse(text);
    if (!isPatch(value)) return undefined;
    const { version, sending, patch } = value as unknown as Partial<Unsent>;
    if (typeof version === 'number' && Array.isArray(sending) && isPatch(patch))
      return { version, sending: sending.filter((s) => typeof s.id === 'string' && isPatch(s.patch)), patch };
    return { version: 4, sending: [], patch: value };
  } catch {
    return undefined;
  }
}

/**
 * What earlier visits left, as changes of today: those that were made for an older version are read as that version meant them.
 * @throws SetupError where they fit the document no more
 */
export function broughtUpToDate(left: readonly Unsent[], document: Setup): Unsent[] {
  let now = document;
  return left.map(({ version, sending, patch }) => {
    const before = now;
    const whole = [...sending.map((s) => s.patch), patch];
    now = whole.reduce((d: Setup, p) => parseSetup(applyVersion(d, p, version)), before);
    return version === SCHEMA_VERSION ? { version, sending, patch } : { version: SCHEMA_VERSION, sending: [], patch: diff(before, now) };
  });
}

/** Keys under which unsent changes of a setup are kept; none where storage fails. */
function keysOf(id: string, storage: Pick<Storage, 'key' | 'length'>): string[] {
  const found: string[] = [];
  for (let i = 0; i < storage.length; i++) {
    const key = storage.key(i);
    if (key?.startsWith(prefix(id))) found.push(key);
  }
  return found.sort();
}

const aside = (key: string): string => key.replace('unsent', 'set-aside');

/** Whether changes of a setup wait in this browser. */
export function hasUnsent(id: string, storage: Pick<Storage, 'key' | 'length'>): boolean {
  try {
    return keysOf(id, storage).length > 0;
  } catch {
    return false;
  }
}

/** Puts everything unsent of a setup where nobody sends it and nobody loses it: a page that breaks over it opens again. */
export function setAsideAll(id: string, storage: UnsentPorts['storage']): void {
  for (const key of keysOf(id, storage)) {
    storage.setItem(aside(key), storage.getItem(key) ?? '');
    storage.removeItem(key);
  }
}

/** How long a window that is being reloaded may take to let go of what it kept, ms. */
const RELOAD_MS = 2000;

/** The part of the browser that unsent changes need; tests give their own. */
export interface UnsentPorts {
  storage: Pick<Storage, 'getItem' | 'setItem' | 'removeItem' | 'key' | 'length'>;
  /** Locks tell whether the window that kept something is still open; without them none is believed to be. */
  locks?: Pick<LockManager, 'request'>;
  newId(): string;
}

/** Changes of this window that are not yet saved. Storage that fails is said once, and saving goes on without it. */
export class UnsentShelf {
  /** What windows that are gone left behind, oldest key first. */
  readonly left: Unsent[] = [];
  private readonly key: string;
  private readonly adopted: string[] = [];
  private readonly ports: UnsentPorts;
  private release: () => void = () => undefined;
  private told = false;
  /** Told once, when the browser keeps nothing. */
  onFailure: (() => void) | undefined;

  private constructor(id: string, ports: UnsentPorts) {
    this.key = `${prefix(id)}:${ports.newId()}`;
    this.ports = ports;
  }

  /** Opens the shelf of a setup: takes over what windows that are gone left there. */
  static async open(id: string, ports: UnsentPorts): Promise<UnsentShelf> {
    const shelf = new UnsentShelf(id, ports);
    for (const key of shelf.keys(id)) if (await shelf.isFree(key)) shelf.take(key);
    shelf.hold();
    return shelf;
  }

  /** Keeps what is not saved, or nothing. */
  keep(unsent: Unsent | undefined): void {
    this.guarded(() => {
      if (unsent) this.ports.storage.setItem(this.key, JSON.stringify(unsent));
      else this.ports.storage.removeItem(this.key);
      // now that it is kept here it is taken away there
      for (const key of this.adopted.splice(0)) this.ports.storage.removeItem(key);
    });
  }

  /** Puts changes that fit nothing any more where nobody sends them, and nobody loses them. */
  setAside(): void {
    this.guarded(() => this.ports.storage.setItem(aside(this.key), JSON.stringify(this.left)));
    this.keep(undefined);
  }

  close(): void {
    this.release();
  }

  private keys(id: string): string[] {
    let found: string[] = [];
    this.guarded(() => (found = keysOf(id, this.ports.storage)));
    return found;
  }

  private take(key: string): void {
    this.guarded(() => {
      const unsent = readUnsent(this.ports.storage.getItem(key));
      if (unsent) this.left.push(unsent);
      this.adopted.push(key);
    });
  }

  /** Whether the window that kept something is gone; one that is just being reloaded gets a moment. */
  private async isFree(key: string): Promise<boolean> {
    const { locks } = this.ports;
    if (!locks) return true;
    const signal = AbortSignal.timeout(RELOAD_MS);
    return locks.request(key, { signal }, () => true).catch(() => false);
  }

  /** Holds a lock by which other windows know that this one is open. */
  private hold(): void {
    const held = new Promise<void>((resolve) => (this.release = resolve));
    this.ports.locks?.request(this.key, () => held).catch(() => undefined);
  }

  private guarded(work: () => void): void {
    try {
      work();
    } catch {
      if (this.told || !this.onFailure) return;
      this.told = true;
      this.onFailure();
    }
  }
}
