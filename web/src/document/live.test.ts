import { describe, expect, it } from '@jest/globals';
import type { AcceptedChange } from '@plinket/contract';
import { listen, type LivePorts } from './live.ts';

class Page extends EventTarget {
  hidden = false;
  turn(hidden: boolean): void {
    this.hidden = hidden;
    this.dispatchEvent(new Event('visibilitychange'));
  }
}

describe('listening', () => {
  it('begins at the revision that is known, rests while the page is hidden, and goes on from there', () => {
    const page = new Page();
    type Source = ReturnType<LivePorts['open']> & { url: string; closed: boolean; readyState: number };
    const opened: Source[] = [];
    let later: (() => void) | undefined;
    const ports: LivePorts = {
      page: page as unknown as LivePorts['page'],
      open: (url) => {
        const source: Source = {
          url,
          closed: false,
          readyState: 1,
          onmessage: null,
          onerror: null,
          onopen: null,
          close: () => void (source.closed = true),
        };
        opened.push(source);
        return source;
      },
      after: (_ms, then) => {
        later = then;
        return () => (later = undefined);
      },
    };
    let revision = 4;
    const fail = (readyState: number) => {
      Object.assign(opened.at(-1)!, { readyState });
      opened.at(-1)!.onerror!(new Event('error'));
    };
    const heard: AcceptedChange[] = [];
    const stop = listen(
      'setups/x',
      () => revision,
      (c) => heard.push(c),
      ports,
    );
    expect(opened[0]!.url).toBe('/api/setups/x/events?after=4');
    const say = (data: unknown) => opened.at(-1)!.onmessage!({ data: JSON.stringify(data) } as MessageEvent<string>);
    say({ revision: 5, patch: { brief: 'x' } });
    say({ revision: 'odd' });
    expect(heard).toEqual([{ revision: 5, patch: { brief: 'x' } }]);
    revision = 5;
    page.turn(true);
    expect(opened[0]!.closed).toBe(true);
    page.turn(false);
    expect(opened[1]!.url).toBe('/api/setups/x/events?after=5');
    page.turn(false);
    expect(opened).toHaveLength(2);
    // the browser tries again by itself while it connects; after an answer such as 503 it does not
    fail(0);
    expect(later).toBeUndefined();
    fail(2);
    later!();
    expect(opened).toHaveLength(3);
    expect(opened[2]!.url).toBe('/api/setups/x/events?after=5');
    stop();
    expect(opened[2]!.closed).toBe(true);
    page.turn(false);
    expect(opened).toHaveLength(3);
  });
});
