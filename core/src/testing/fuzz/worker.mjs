// A thread that reads spoilt files starts as plain JavaScript and then takes TypeScript: loaders given on the command line do not reach it.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
