import { describe, expect, it } from '@jest/globals';
import { SCHEMA_VERSION } from '@plinket/core';
import { hasUnsent, readUnsent, setAsideAll, UnsentShelf, type UnsentPorts } from './unsent.ts';

/** A browser's storage and locks: both are shared by all of its windows. */
class Browser {
  readonly kept = new Map<string, string>();
  private readonly held = new Map<string, Promise<unknown>>();
  private count = 0;
  full = false;

  ports(): UnsentPorts {
    const { kept, held } = this;
    const check = () => {
      if (this.full) throw new DOMException('full', 'QuotaExceededError');
    };
    const request = async (name: string, ...rest: unknown[]) => {
      const work = rest.at(-1) as () => unknown;
      const signal = rest.length > 1 ? (rest[0] as { signal: AbortSignal }).signal : undefined;
      const before = held.get(name);
      if (before && signal)
        await Promise.race([before, new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error('aborted'))))]);
      const done = Promise.resolve(work());
      held.set(name, done);
      return done.finally(() => held.get(name) === done && held.delete(name));
    };
    return {
      storage: {
        get length() {
          return kept.size;
        },
        key: (i) => [...kept.keys()][i] ?? null,
        getItem: (k) => kept.get(k) ?? null,
        setItem: (k, v) => {
          check();
          kept.set(k, v);
        },
        removeItem: (k) => void kept.delete(k),
      },
      locks: { request } as unknown as LockManager,
      newId: () => `w${++this.count}`,
    };
  }
}

const unsent = (brief: string, version = SCHEMA_VERSION) => ({ version, sending: [], patch: { brief } });

describe('unsent changes', () => {
  it('are found by the next visit, once, and given up when they are saved', async () => {
    const browser = new Browser();
    const first = await UnsentShelf.open('a', browser.ports());
    first.keep(unsent('mine'));
    first.close();
    const next = await UnsentShelf.open('a', browser.ports());
    expect(next.left).toEqual([unsent('mine')]);
    // still there until the next visit keeps or saves it itself
    expect(browser.kept.size).toBe(1);
    next.keep(unsent('mine'));
    expect([...browser.kept.keys()]).toEqual(['plinket:unsent:a:w2']);
    next.keep(undefined);
    expect(browser.kept.size).toBe(0);
  });
  it('of another window that is open, or of another setup, are left alone', async () => {
    const browser = new Browser();
    const first = await UnsentShelf.open('a', browser.ports());
    first.keep(unsent('hers'));
    const second = await UnsentShelf.open('a', browser.ports());
    expect(second.left).toEqual([]);
    second.keep(unsent('his'));
    expect((await UnsentShelf.open('b', browser.ports())).left).toEqual([]);
    second.close();
    const third = await UnsentShelf.open('a', browser.ports());
    expect(third.left).toEqual([unsent('his')]);
    expect([...browser.kept.values()].map((v) => readUnsent(v))).toContainEqual(unsent('hers'));
  });
  it('that an earlier version kept are read, and what is no patch is not', async () => {
    const browser = new Browser();
    browser.kept.set('plinket:unsent:a', '{"brief":"older"}');
    browser.kept.set('plinket:unsent:a:odd', 'no json');
    expect((await UnsentShelf.open('a', browser.ports())).left).toEqual([unsent('older', 4)]);
    expect(readUnsent('[1]')).toBeUndefined();
    expect(readUnsent(null)).toBeUndefined();
    expect(readUnsent('{"version":5,"sending":[{"id":3},{"id":"x","patch":{}}],"patch":{}}')).toEqual({
      version: 5,
      sending: [{ id: 'x', patch: {} }],
      patch: {},
    });
  });
  it('that fit nothing any more are put where nobody sends them, and not thrown away', async () => {
    const browser = new Browser();
    browser.kept.set('plinket:unsent:a:w0', JSON.stringify(unsent('lost?')));
    const shelf = await UnsentShelf.open('a', browser.ports());
    shelf.setAside();
    expect([...browser.kept]).toEqual([['plinket:set-aside:a:w1', JSON.stringify([unsent('lost?')])]]);
  });
});

describe('a page that breaks over what was not sent', () => {
  it('can be opened without it: it is set aside, another setup’s is not', () => {
    const browser = new Browser();
    const { storage } = browser.ports();
    browser.kept.set('plinket:unsent:a:w1', 'one');
    browser.kept.set('plinket:unsent:a', 'older');
    browser.kept.set('plinket:unsent:b:w2', 'other');
    expect([hasUnsent('a', storage), hasUnsent('c', storage)]).toEqual([true, false]);
    setAsideAll('a', storage);
    expect(hasUnsent('a', storage)).toBe(false);
    expect(Object.fromEntries(browser.kept)).toEqual({
      'plinket:set-aside:a': 'older',
      'plinket:set-aside:a:w1': 'one',
      'plinket:unsent:b:w2': 'other',
    });
  });
});

describe('storage that fails', () => {
  it('is said once, and nothing else happens', async () => {
    const browser = new Browser();
    const shelf = await UnsentShelf.open('a', browser.ports());
    let said = 0;
    shelf.onFailure = () => said++;
    browser.full = true;
    for (let i = 0; i < 3; i++) shelf.keep(unsent('x'));
    expect(said).toBe(1);
  });
  it('from the first moment on is said when it matters', async () => {
    const ports = new Browser().ports();
    const blocked = new Proxy(ports.storage, {
      get() {
        throw new DOMException('blocked', 'SecurityError');
      },
    });
    const shelf = await UnsentShelf.open('a', { ...ports, storage: blocked });
    let said = 0;
    shelf.onFailure = () => said++;
    shelf.keep(unsent('x'));
    expect([shelf.left, said]).toEqual([[], 1]);
  });
});
