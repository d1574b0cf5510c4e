// npm run fuzz -- [READER …] [--count N] [--from N] [--keep FOLDER]: feeds readers spoilt files, and says which of these they did not refuse by name.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { fuzzReaders } from '../core/src/testing/fuzz/readers.ts';
import { Fuzz } from '../core/src/testing/fuzz/run.ts';
import { spoiled } from '../core/src/testing/fuzz/spoil.ts';

/** After so long a file counts as one that is read for ever. */
const HANG_SECONDS = 2;

const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: { count: { type: 'string', default: '2500' }, from: { type: 'string', default: '1' }, keep: { type: 'string' } },
});
const readers = await fuzzReaders(),
  fuzz = new Fuzz();
const count = Number(values.count),
  from = Number(values.from);
const unknown = positionals.filter((name) => !(name in readers));
if (unknown.length || !(count > 0) || !(from >= 0)) {
  console.error(`${unknown.join(', ') || 'count or from'}: there are ${Object.keys(readers).join(', ')}; --count and --from are numbers.`);
  process.exit(1);
}
let faults = 0;
for (const name of positionals.length ? positionals : Object.keys(readers)) {
  const report = await fuzz.run(name, from, from + count, HANG_SECONDS);
  const of = (kind: string) => report.faults.filter((f) => f.kind === kind).length;
  console.log(
    `${name.padEnd(10)} ${count} files: ${report.accepted} accepted, ${report.refused} refused; untyped ${of('untyped')}, hangs ${of('hang')}, not finite ${of('not finite')}; slowest ${Math.round(report.slowest)} ms (number ${report.slowestNumber})`,
  );
  for (const { number, kind, message } of report.faults.slice(0, 20))
    console.log(`  ${kind}, number ${number}: ${message.split('\n').slice(0, 3).join(' ')}`);
  if (values.keep) {
    mkdirSync(values.keep, { recursive: true });
    for (const { number } of report.faults)
      writeFileSync(join(values.keep, `${name}-${number}`), spoiled(readers[name]!.samples, readers[name]!.text ?? false, number));
  }
  faults += report.faults.length;
}
await fuzz.close();
process.exit(faults ? 1 : 0);
