// The lighting plan of a setup on one sheet: PLAN and SIDE to one scale, every light with its numbers, the picture and what was read of the face. In black:
// printers have no colours to rely on.
import { add, scale as times, type Vec3 } from '../../math/index.ts';
import { formatStops } from '../../photometry/index.ts';
import {
  headAround,
  inOrder,
  isPlaced,
  objectName,
  orderOf,
  outputIn,
  type KeptReading,
  type Light,
  type PlacedLight,
  type Setup,
} from '../../setup/index.ts';
import { flagOutline, flatView, letterOf, lightOutline, type Flat, type Point } from '../../staging/index.ts';
import { collectionWords } from '../../words/index.ts';
import { element, picture as image, sheet, SHEET, text, wrapped } from './svg.ts';

export interface PlanPaper {
  /** A data URL of the picture, and its shape. */
  picture?: { href: string; width: number; height: number };
  reading?: KeptReading;
  /** Below the name: when, of which setup. */
  under?: string;
}

/** Scales that plans are drawn in, 1 to so many (ISO 5455 has 2, 5, 10, 20, 50, 100 …, from memory; 25 is common practice for plans, no source). */
const SCALES = [2, 5, 10, 20, 25, 50, 100, 200, 500, 1000];
/** Room of the two drawings, mm. */
const DRAWN = { width: 118, plan: 92, side: 62 };
const TOP = 30,
  SMALL = 2.4,
  LINE = 3.2;

interface Extent {
  left: number;
  right: number;
  low: number;
  high: number;
}
const extentOf = (points: readonly Point[]): Extent => ({
  left: Math.min(...points.map((p) => p[0])),
  right: Math.max(...points.map((p) => p[0])),
  low: Math.min(...points.map((p) => p[1])),
  high: Math.max(...points.map((p) => p[1])),
});

/** All points that a drawing must hold, metres. */
function pointsOf(setup: Setup, flat: Flat): Point[] {
  const { head } = flat;
  const around: Point[] = [flat.project(setup.camera.position), flat.project(head.origin)];
  for (const sign of [-1, 1]) around.push(flat.project(add(head.origin, times(head.x, sign * head.headHeight))));
  if (flat.kind === 'side') around.push([0, setup.stage.floor - head.origin[1]]);
  for (const light of inOrder(setup.lights)) if (isPlaced(light)) around.push(...lightOutline(flat, light, headAround(setup, light)).body);
  for (const flag of inOrder(setup.flags)) if (flag.on) around.push(...flagOutline(flat, flag, headAround(setup, flag)).body);
  return around;
}

/** The largest scale that holds both drawings. */
export function planScale(setup: Setup): number {
  return (
    SCALES.find((scale) =>
      (['plan', 'side'] as const).every((kind) => {
        const { left, right, low, high } = extentOf(pointsOf(setup, flatView(setup, kind)));
        // room for letters around
        return ((right - left) * 1000) / scale <= DRAWN.width - 14 && ((high - low) * 1000) / scale <= DRAWN[kind] - 12;
      }),
    ) ?? SCALES.at(-1)!
  );
}

/** The figure from above, or from its side: head, nose and, from above, shoulders. */
function figure(flat: Flat, at: (p: Point) => string): string {
  const { head } = flat,
    h = head.headHeight;
  const point = (x: number, y: number, z: number): Point =>
    flat.project([0, 1, 2].map((k) => head.origin[k]! + h * (head.x[k]! * x + head.y[k]! * y + head.z[k]! * z)) as Vec3);
  const oval = (cy: number, cz: number, a: number, b: number): string =>
    Array.from({ length: 32 }, (_, i) => {
      const t = (i / 32) * 2 * Math.PI;
      return at(
        flat.kind === 'plan' ? point(a * Math.cos(t), cy, cz + b * Math.sin(t)) : point(0, cy + a * Math.sin(t), cz + b * Math.cos(t)),
      );
    }).join(' ');
  const line = { fill: 'none', stroke: '#000', 'stroke-width': 0.25 };
  const nose = element('polyline', {
    points: [point(0, -0.05, 0.05), point(0, -0.1, 0.32)].map(at).join(' '),
    ...line,
    'stroke-width': 0.5,
  });
  const shoulders = flat.kind === 'plan' ? element('polygon', { points: oval(-1, -0.55, 0.95, 0.28), ...line }) : '';
  return (
    shoulders +
    element('polygon', { points: flat.kind === 'plan' ? oval(0, -0.35, 0.34, 0.42) : oval(0, -0.35, 0.5, 0.42), ...line, fill: '#fff' }) +
    nose
  );
}

function drawing(setup: Setup, kind: 'plan' | 'side', scale: number, x: number, y: number): string {
  const flat = flatView(setup, kind),
    height = DRAWN[kind];
  const { left, right, low, high } = extentOf(pointsOf(setup, flat));
  const mm = 1000 / scale;
  const place = ([px, py]: Point): Point => [
    x + DRAWN.width / 2 + (px - (left + right) / 2) * mm,
    y + height / 2 - (py - (low + high) / 2) * mm,
  ];
  const at = (p: Point): string =>
    place(p)
      .map((v) => v.toFixed(3))
      .join(',');
  let out = element('rect', { x, y, width: DRAWN.width, height, fill: 'none', stroke: '#000', 'stroke-width': 0.15 });
  out += text(x + 2, y + 4, kind === 'plan' ? 'PLAN' : 'SIDE', { size: SMALL, bold: true });
  if (kind === 'side') {
    const [, floor] = place([0, setup.stage.floor - flat.head.origin[1]]);
    out += element('line', { x1: x, x2: x + DRAWN.width, y1: floor, y2: floor, stroke: '#000', 'stroke-width': 0.3 });
  }
  out += figure(flat, at);
  const [cx, cy] = place(flat.project(setup.camera.position)),
    [tx, ty] = place(flat.project(setup.camera.target));
  const away = Math.hypot(tx - cx, ty - cy) || 1;
  out += element('line', {
    x1: cx,
    y1: cy,
    x2: cx + ((tx - cx) / away) * 9,
    y2: cy + ((ty - cy) / away) * 9,
    stroke: '#000',
    'stroke-width': 0.2,
  });
  out += element('rect', { x: cx - 1.6, y: cy - 1.2, width: 3.2, height: 2.4, fill: '#fff', stroke: '#000', 'stroke-width': 0.35 });
  const dashed = (on: boolean) => (on ? undefined : '0.8 0.6');
  for (const [i, id] of orderOf(setup.lights).entries()) {
    const light = setup.lights.items[id]!;
    if (!isPlaced(light)) continue;
    const { body, wedge, centre } = lightOutline(flat, light, headAround(setup, light));
    if (wedge.length)
      out += element('polygon', {
        points: wedge.map(at).join(' '),
        fill: 'none',
        stroke: '#888',
        'stroke-width': 0.1,
        'stroke-dasharray': '1 1',
      });
    out += element('polygon', {
      points: body.map(at).join(' '),
      fill: light.on ? '#444' : '#fff',
      stroke: '#000',
      'stroke-width': 0.3,
      'stroke-dasharray': dashed(light.on),
      'data-light': id,
    });
    // its letter on the side away from the head
    const [lx, ly] = place(centre),
      [hx, hy] = place([0, 0]),
      d = Math.hypot(lx - hx, ly - hy) || 1;
    const clear = Math.max(0, ...body.map(place).map(([bx, by]) => ((bx - lx) * (lx - hx) + (by - ly) * (ly - hy)) / d)) + 2.6;
    out += text(lx + ((lx - hx) / d) * clear, ly + ((ly - hy) / d) * clear + 1.1, letterOf(i), { size: 3.2, bold: true, anchor: 'middle' });
  }
  for (const flag of inOrder(setup.flags))
    if (flag.on)
      out += element('polygon', {
        points: flagOutline(flat, flag, headAround(setup, flag)).body.map(at).join(' '),
        fill: '#000',
        stroke: '#000',
        'stroke-width': 0.3,
      });
  return out;
}

const cm = (v: number): string => `${Number((v * 100).toPrecision(3))}`;
function sizeWords(light: Light): string {
  switch (light.kind) {
    case 'rectangle':
      return `${cm(light.width)} × ${cm(light.height)} cm`;
    case 'disk':
      return `disk ${cm(light.width)} × ${cm(light.height)} cm`;
    case 'ball':
    case 'profile':
      return `${light.kind} ${cm(light.diameter)} cm`;
    case 'spot':
      return `spot ${Math.round(light.angle)}°`;
    case 'tube':
      return `tube ${cm(light.length)} cm`;
    default:
      return light.kind;
  }
}
const placeWords = ({ place }: PlacedLight): string => {
  const side =
    Math.round(place.azimuth) === 0 ? 'front' : `${Math.abs(Math.round(place.azimuth))}° ${place.azimuth < 0 ? 'right' : 'left'}`;
  const height = Math.round(place.elevation);
  return `${side}, ${Math.abs(height)}° ${height < 0 ? 'below' : 'up'}, ${place.distance.toFixed(2)} m`;
};
const farWords = (light: Light): string =>
  'bearing' in light ? `bearing ${Math.round(light.bearing)}°${'elevation' in light ? `, ${Math.round(light.elevation)}° up` : ''}` : '–';

/** Columns of the list of lights: where they begin, mm from its left, and what they say. */
const COLUMNS: [number, string, (light: Light, setup: Setup) => string][] = [
  [7, 'Light', (l) => l.name],
  [30, 'Source', sizeWords],
  [58, 'From the nose', (l) => (isPlaced(l) ? placeWords(l) : farWords(l))],
  [98, 'Level', (l) => (l.on ? `${formatStops(l.stops)} st` : 'off')],
  [110, 'Output', (l) => `${Number(outputIn(l, l.output.unit).toPrecision(3))} ${l.output.unit === 'relative' ? '×' : l.output.unit}`],
  [132, 'Colour', (l) => `${Math.round(l.kelvin)} K${l.gel ? ', gel' : ''}`],
];

/** Draws the lighting plan of a setup. */
export function planPaper(setup: Setup, { picture, reading, under }: PlanPaper = {}): string {
  const { width, margin } = SHEET,
    right = margin + DRAWN.width + 8,
    wide = width - margin - right;
  const scale = planScale(setup);
  let out = text(margin, margin + 4, wrapped(setup.name, DRAWN.width, 4.6, 1)[0]!, { size: 4.6, bold: true });
  if (setup.brief) out += text(margin, margin + 9, wrapped(`“${setup.brief}”`, DRAWN.width, 2.8, 1)[0]!, { size: 2.8 });
  const bar = 1000 / scale;
  out += text(margin, TOP - 3, `1 : ${scale}`, { size: SMALL, bold: true });
  out += element('line', {
    x1: margin + 14,
    x2: margin + 14 + bar,
    y1: TOP - 4,
    y2: TOP - 4,
    stroke: '#000',
    'stroke-width': 0.6,
    'data-metre': 1,
  });
  out += text(margin + 16 + bar, TOP - 3, '1 m', { size: SMALL });
  if (under) out += text(margin + DRAWN.width, TOP - 3, under, { size: SMALL, anchor: 'end' });
  out += drawing(setup, 'plan', scale, margin, TOP);
  out += drawing(setup, 'side', scale, margin, TOP + DRAWN.plan + 4);

  let y = margin + 2,
    beside = right;
  if (picture) {
    const h = Math.min(62, (wide * 0.5 * picture.height) / picture.width),
      w = h * (picture.width / picture.height);
    out += image(picture.href, right, y, w, h);
    beside = right + w + 5;
  }
  const { camera } = setup;
  const said = [
    `Camera ${camera.name}: ${Math.round(camera.focal)} mm${camera.lens.fNumber > 0 ? `, f/${camera.lens.fNumber}` : ''}, EV ${camera.ev.toFixed(1)}`,
    ...(reading?.pattern ? [`Pattern: ${reading.pattern}`] : []),
    ...(reading?.ratio ? [`Ratio ${reading.ratio.toFixed(1)} : 1, ${Math.log2(reading.ratio).toFixed(1)} st`] : []),
    ...(reading?.lit === undefined ? [] : [`${Math.round(reading.lit * 100)} % of the face lit${reading.side ? `, ${reading.side}` : ''}`]),
    ...(reading?.catchlights.length ? [`Catchlights: ${reading.catchlights.map((c) => `${c.light} ${c.hour} h`).join(', ')}`] : []),
    ...(reading?.separation === undefined ? [] : [`Against the ground ${formatStops(reading.separation)} st`]),
  ];
  let beneath = y + 3;
  for (const line of said.flatMap((words) => wrapped(words, width - margin - beside, 2.7))) {
    out += text(beside, beneath, line, { size: 2.7 });
    beneath += 4;
  }
  y = margin + (picture ? 72 : 32);
  for (const [x, title] of COLUMNS) out += text(right + x, y, title, { size: SMALL, bold: true });
  y += 1.4;
  const ids = orderOf(setup.lights),
    // as many as the sheet holds; the rest is said
    most = Math.floor((SHEET.height - margin - y - 8) / (2 * LINE));
  ids.slice(0, most).forEach((id, i) => {
    const light = setup.lights.items[id]!;
    out += element('line', { x1: right, x2: width - margin, y1: y, y2: y, stroke: '#000', 'stroke-width': 0.1 });
    out += text(right, y + LINE, letterOf(i), { size: 2.9, bold: true });
    COLUMNS.forEach(([x, , say], c) => {
      const room = (COLUMNS[c + 1]?.[0] ?? wide) - x - 1.5;
      out += text(right + x, y + LINE, wrapped(say(light, setup), room, SMALL, 1)[0]!, { size: SMALL });
    });
    const reach = light.reach && Object.keys(light.reach.lights).length + Object.keys(light.reach.casts).length > 0;
    const note = [
      reach ? `lights ${collectionWords(setup, light.reach!.lights)}; shadow of ${collectionWords(setup, light.reach!.casts)}` : '',
      light.kind === 'object' ? objectName(setup, light.object) : '',
      light.notes,
    ]
      .filter(Boolean)
      .join('; ');
    if (note) out += text(right + COLUMNS[0]![0], y + 2 * LINE - 0.4, wrapped(note, wide - 8, 2.1, 1)[0]!, { size: 2.1 });
    y += (note ? 2 : 1.35) * LINE;
  });
  if (ids.length > most) out += text(right, y + LINE, `and ${ids.length - most} more`, { size: SMALL });
  return sheet(`${setup.name}, lighting plan`, out);
}
