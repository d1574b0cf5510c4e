export { exrChannels, renderFilms } from './commands/render.ts';
export { inspection } from './commands/inspect.ts';
export { inflated, writeExrFile } from './node/exr-file.ts';
