// The command line as tests speak to it.
import { jest } from '@jest/globals';
import { run } from './cli.ts';

/** Runs a command line in this process: starting one for each takes longer than what it does. */
export async function plinket(...args: string[]): Promise<{ stdout: string; stderr: string; status: number }> {
  const out: string[] = [],
    wrong: string[] = [];
  const log = jest.spyOn(console, 'log').mockImplementation((text) => void out.push(String(text))),
    error = jest.spyOn(console, 'error').mockImplementation((text) => void wrong.push(String(text)));
  try {
    return { status: await run(args), stdout: out.join('\n'), stderr: wrong.join('\n') };
  } finally {
    log.mockRestore();
    error.mockRestore();
  }
}
