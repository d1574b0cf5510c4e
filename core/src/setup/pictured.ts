import type { Setup } from './schema.ts';

/** What of a setup a picture of it is made of: neither what it is called nor what is planned, kept or noted beside it. */
export function picturedOf(setup: Setup): object {
  const { subjects, stage, camera, plate, props, haze, lights, flags, look, catcher } = setup;
  const { name: _, locked: _locked, ...through } = camera;
  return { subjects, stage, camera: through, plate, props, haze, lights, flags, look, catcher };
}
