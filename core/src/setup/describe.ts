import { formatStops, gelOf, strengthWord } from '../photometry/index.ts';
import type { Patch } from './patch.ts';
import { applyPatch } from './patch.ts';
import { isPlaced, type Light, type PlacedLight } from './light-schema.ts';
import { hasCatcher } from './catcher.ts';
import { outputIn } from './output.ts';
import { orderOf } from './rank.ts';
import type { Setup } from './schema.ts';

const degrees = (v: number): string => `${Math.round(v * 10) / 10}°`.replace('-', '−');
const metres = (v: number): string => `${v.toFixed(2)} m`.replace('-', '−');

/** What a patch left alone is the same object. */
const differ = (a: unknown, b: unknown): boolean => a !== b && JSON.stringify(a) !== JSON.stringify(b);
const outputWords = (light: Light): string => {
  const value = outputIn(light, light.output.unit);
  return `${Number(value.toPrecision(4))} ${light.output.unit === 'relative' ? '×' : light.output.unit}`;
};

/** Properties of some kinds of light only, in words. */
const SHAPES: [key: string, words: string][] = [
  ['width', 'width'],
  ['height', 'height'],
  ['length', 'length'],
  ['diameter', 'diameter'],
  ['twoSided', 'sides'],
  ['beam', 'grid'],
  ['angle', 'angle'],
  ['soft', 'soft edge'],
  ['range', 'range'],
  ['gobo', 'gobo'],
  ['roll', 'rolled to'],
  ['bearing', 'bearing'],
  ['elevation', 'height'],
  ['turbidity', 'turbidity'],
  ['air', 'air'],
  ['tilt', 'tilt'],
  ['fill', 'dome'],
  ['object', 'object'],
  ['profile', 'profile'],
  ['where', 'place and time'],
];

function describePlace({ place: a }: PlacedLight, { place: b }: PlacedLight, say: (what: string) => void): void {
  if (a.azimuth !== b.azimuth) say(`round to ${degrees(b.azimuth)}`);
  if (a.elevation !== b.elevation) say(`up to ${degrees(b.elevation)}`);
  if (a.distance !== b.distance) say(`${metres(b.distance)} away`);
  if (a.aim.some((v, i) => v !== b.aim[i])) say('aimed anew');
}

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
  if (before.tint !== after.tint) say(`tint ${after.tint > 0 ? 'green' : after.tint < 0 ? 'magenta' : 'none'}`);
  if (differ(before.picked, after.picked)) say(after.picked.strength > 0 ? `${strengthWord(after.picked.strength)} colour` : 'no colour');
  if (before.gel !== after.gel) say(after.gel ? `gel ${gelOf(after.gel)?.name.toLowerCase() ?? after.gel}` : 'no gel');
  if (before.scrims !== after.scrims) say(`scrims ${formatStops(-after.scrims / 2)}`);
  if (before.diffuse !== after.diffuse) say(`diffuse share × ${after.diffuse}`);
  if (before.specular !== after.specular) say(`specular share × ${after.specular}`);
  if (before.volume !== after.volume) say(`share in the haze × ${after.volume}`);
  if (before.seen.camera !== after.seen.camera) say(after.seen.camera ? 'seen by the camera' : 'hidden from the camera');
  if (before.seen.mirror !== after.seen.mirror) say(after.seen.mirror ? 'seen in mirrors' : 'hidden from mirrors');
  if (differ(before.shadow, after.shadow)) say(after.shadow.cast ? 'shadow' : 'casts no shadow');
  if (differ(before.reach, after.reach)) say('reach');
  if (before.locked !== after.locked) say(after.locked ? 'locked' : 'unlocked');
  if (before.role !== after.role) say(`is ${after.role} now`);
  if (before.group !== after.group) say(after.group ? `in group ${after.group}` : 'in no group');
  if (before.notes !== after.notes) say('notes');
  if (differ(before.twin, after.twin)) say(after.twin ? 'twin' : 'no twin any more');
  if (before.output.value !== after.output.value || before.output.held !== after.output.held) say(`output ${outputWords(after)}`);
  else if (before.output.unit !== after.output.unit) say(`output shown in ${after.output.unit}`);
  if (isPlaced(before) && isPlaced(after)) describePlace(before, after, say);
  for (const [key, words] of SHAPES) {
    const a = (before as Record<string, unknown>)[key],
      b = (after as Record<string, unknown>)[key];
    if (differ(a, b)) say(typeof b === 'number' ? `${words} ${Number(b.toFixed(3))}` : words);
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
  const ids = new Set([...orderOf(setup.lights), ...orderOf(after.lights)]);
  for (const id of ids) {
    const was = setup.lights.items[id],
      is = after.lights.items[id];
    if (was !== is) said.push(...describeLight(was, is));
  }
  if (differ(setup.flags, after.flags)) said.push('flags');
  if (setup.name !== after.name) said.push(`renamed “${after.name}”`);
  if (setup.brief !== after.brief) said.push('brief');
  if (setup.camera.ev !== after.camera.ev) said.push(`exposure EV ${after.camera.ev.toFixed(1)}`);
  if (setup.camera.focal !== after.camera.focal) said.push(`focal length ${Math.round(after.camera.focal)} mm`);
  if (setup.camera.aspect !== after.camera.aspect) said.push('frame');
  if ([...setup.camera.position, ...setup.camera.target].some((v, i) => v !== [...after.camera.position, ...after.camera.target][i]))
    said.push('camera moved');
  if (setup.camera.name !== after.camera.name) said.push(`camera “${after.camera.name}”`);
  if (setup.camera.roll !== after.camera.roll) said.push(`camera rolled to ${degrees(after.camera.roll)}`);
  if (setup.camera.sensor !== after.camera.sensor) said.push(`sensor ${after.camera.sensor} mm`);
  if (setup.camera.locked !== after.camera.locked) said.push(after.camera.locked ? 'camera locked' : 'camera unlocked');
  if (differ(setup.cameras, after.cameras)) said.push('cameras');
  if (differ(setup.plate, after.plate)) said.push('plate');
  if (setup.stage.kind !== after.stage.kind) said.push(`stage: ${after.stage.kind}`);
  else if (patch.stage !== undefined) said.push('stage');
  if (differ(setup.camera.lens, after.camera.lens))
    said.push(
      after.camera.lens.fNumber > 0 ? `f/${after.camera.lens.fNumber}, sharp at ${metres(after.camera.lens.focus)}` : 'everything sharp',
    );
  if (differ(setup.catcher, after.catcher)) said.push(hasCatcher(after) ? 'shadow catcher' : 'no shadow catcher');
  if (differ(setup.turntable, after.turntable)) said.push(after.turntable ? 'turntable' : 'no turntable');
  if (differ(setup.ties, after.ties)) said.push('kits that it is tied to');
  if (differ(setup.haze, after.haze)) said.push(after.haze.density > 0 ? 'haze' : 'no haze');
  if (differ(setup.props, after.props)) said.push('things on the stage');
  if (setup.look.view !== after.look.view) said.push(`view: ${after.look.view}`);
  else if (differ(setup.look, after.look)) said.push('look');
  for (const id of new Set([...orderOf(setup.subjects), ...orderOf(after.subjects)])) {
    const a = setup.subjects.items[id],
      b = after.subjects.items[id];
    if (!b) said.push(`${a!.name}: removed`);
    else if (!a) said.push(`${b.name}: added`);
    else if (a.turn !== b.turn) said.push(`${b.name}: turned to ${degrees(b.turn)}`);
    else if (differ(a.landmarks, b.landmarks)) said.push(`${b.name}: landmarks`);
    else if (a !== b && differ(a.head, b.head)) said.push(`${b.name}: head corrected`);
    else if (differ(a.gaze, b.gaze)) said.push(`${b.name}: eyes ${b.gaze ? 'at the camera' : 'as in the file'}`);
    else if (differ(a.pose, b.pose)) said.push(b.pose ? `${b.name}: ${b.pose.clip} at ${b.pose.time.toFixed(2)} s` : `${b.name}: at rest`);
    else if (differ(a.materials, b.materials)) said.push(`${b.name}: material`);
    else if (differ(a, b)) said.push(b.name);
  }
  return said.join(' · ');
}
