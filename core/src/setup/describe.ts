import { formatStops } from '../photometry/index.ts';
import type { Patch } from './patch.ts';
import { applyPatch } from './patch.ts';
import type { Light, Setup } from './schema.ts';

const degrees = (v: number): string => `${Math.round(v * 10) / 10}°`.replace('-', '−');
const metres = (v: number): string => `${v.toFixed(2)} m`.replace('-', '−');

function describeLight(before: Light | undefined, after: Light | undefined): string[] {
  if (!after) return before ? [`${before.name.toLowerCase()}: removed`] : [];
  if (!before) return [`${after.name.toLowerCase()}: added`];
  const name = after.name.toLowerCase();
  const said: string[] = [];
  const say = (what: string) => said.push(`${name}: ${what}`);
  if (before.name !== after.name) said.push(`${before.name} is now ${after.name}`);
  if (before.on !== after.on) say(after.on ? 'on' : 'off');
  if (before.stops !== after.stops) say(`${formatStops(after.stops - before.stops)} stop`);
  if (before.kelvin !== after.kelvin) say(`${Math.round(after.kelvin)} K`);
  if (before.diffuse !== after.diffuse) say(`diffuse share × ${after.diffuse}`);
  if (before.specular !== after.specular) say(`specular share × ${after.specular}`);
  if (before.volume !== after.volume) say(`share in the haze × ${after.volume}`);
  if (before.output.value !== after.output.value || before.output.held !== after.output.held)
    say(`output ${Math.round(after.output.value)} ${after.output.held === 'flux' ? 'lm' : 'cd/m²'}`);
  if (before.kind === 'rectangle' && after.kind === 'rectangle') {
    const a = before.place,
      b = after.place;
    if (a.azimuth !== b.azimuth) say(`round to ${degrees(b.azimuth)}`);
    if (a.elevation !== b.elevation) say(`up to ${degrees(b.elevation)}`);
    if (a.distance !== b.distance) say(`${metres(b.distance)} away`);
    if (a.aim.some((v, i) => v !== b.aim[i])) say('aimed anew');
    if (before.width !== after.width || before.height !== after.height) say(`${metres(after.width)} × ${metres(after.height)}`);
  }
  return said;
}

/**
 * Says in words what a patch changes in a setup.
 * @example describePatch(setup, { lights: { items: { rim: { stops: 1 } } } }) // "rim: +⅔ stop"
 */
export function describePatch(setup: Setup, patch: Patch): string {
  const after = applyPatch(setup, patch);
  const said: string[] = [];
  const ids = new Set([...setup.lights.order, ...after.lights.order]);
  for (const id of ids) said.push(...describeLight(setup.lights.items[id], after.lights.items[id]));
  if (setup.name !== after.name) said.push(`renamed “${after.name}”`);
  if (setup.brief !== after.brief) said.push('brief');
  if (setup.camera.ev !== after.camera.ev) said.push(`exposure EV ${after.camera.ev.toFixed(1)}`);
  if (setup.camera.focal !== after.camera.focal) said.push(`focal length ${Math.round(after.camera.focal)} mm`);
  if (setup.camera.aspect !== after.camera.aspect) said.push('frame');
  if ([...setup.camera.position, ...setup.camera.target].some((v, i) => v !== [...after.camera.position, ...after.camera.target][i]))
    said.push('camera moved');
  if (patch.stage !== undefined) said.push('stage');
  if (JSON.stringify(setup.camera.lens) !== JSON.stringify(after.camera.lens))
    said.push(
      after.camera.lens.fNumber > 0 ? `f/${after.camera.lens.fNumber}, sharp at ${metres(after.camera.lens.focus)}` : 'everything sharp',
    );
  if (JSON.stringify(setup.haze) !== JSON.stringify(after.haze)) said.push(after.haze.density > 0 ? 'haze' : 'no haze');
  if (JSON.stringify(setup.props) !== JSON.stringify(after.props)) said.push('things on the stage');
  if (setup.look.view !== after.look.view) said.push(`view: ${after.look.view}`);
  else if (JSON.stringify(setup.look) !== JSON.stringify(after.look)) said.push('look');
  for (const id of new Set([...setup.subjects.order, ...after.subjects.order])) {
    const a = setup.subjects.items[id],
      b = after.subjects.items[id];
    if (!b) said.push(`${a!.name}: removed`);
    else if (!a) said.push(`${b.name}: added`);
    else if (a.turn !== b.turn) said.push(`${b.name}: turned to ${degrees(b.turn)}`);
    else if (a !== b && JSON.stringify(a.head) !== JSON.stringify(b.head)) said.push(`${b.name}: head corrected`);
    else if (JSON.stringify(a.materials) !== JSON.stringify(b.materials)) said.push(`${b.name}: material`);
    else if (JSON.stringify(a) !== JSON.stringify(b)) said.push(b.name);
  }
  return said.join(' · ');
}
