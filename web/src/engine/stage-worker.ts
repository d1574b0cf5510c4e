// The Stage's engine: holds the films, hands work to the tracing workers, balances and develops. The page only paints.
import {
  balance,
  compile,
  develop,
  ImportError,
  readGlb,
  setupGains,
  shrink,
  tonesOf,
  writePng,
  type CharacterAsset,
  type Scene,
  type Setup,
  type Voice,
} from '@plinket/core';
import { Renderer } from '@plinket/engine';
import { browserPool } from '@plinket/engine/browser';
import { reportOf, type FromEngine, type ToEngine } from './messages.ts';

/** Samples a pixel at which the Stage's picture rests. */
const TARGET = 256;
const BOUNCES = 3;
const FRAME_MS = 70;
const THUMB_MS = 450;

interface Scope {
  postMessage(message: FromEngine, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToEngine>) => void) | null;
}
const scope = globalThis as unknown as Scope;
const tell = (message: FromEngine, transfer: Transferable[] = []) => scope.postMessage(message, transfer);
const fail = (error: unknown) => tell({ type: 'failed', message: error instanceof Error ? error.message : String(error) });

type Show = Extract<ToEngine, { type: 'show' }>;

const assets = new Map<string, CharacterAsset>();
let renderer: Renderer | undefined;
let poolRays: { walk: number; shadow: number } = { walk: 0, shadow: 0 };
let scene: Scene | undefined;
let show: Show | undefined;
let shows = 0;
let linear = new Float32Array(0);
let lastFrame = 0,
  lastThumbs = 0;
let timer: ReturnType<typeof setTimeout> | undefined;

async function open(urls: { shared: string; own: string }): Promise<void> {
  tell({ type: 'state', state: 'loading' });
  const pool = await browserPool(urls);
  poolRays = pool.rays;
  renderer = new Renderer(pool);
  renderer.onProgress = () => schedule(FRAME_MS);
  renderer.onError = fail;
  await present();
}

/** Brings in the characters that a setup names and this worker does not have. */
async function fetchAssets(setup: Setup): Promise<void> {
  for (const id of setup.subjects.order) {
    const { asset, name, visible } = setup.subjects.items[id]!;
    if (!visible || assets.has(asset)) continue;
    const response = await fetch(`/api/blobs/${asset}`);
    if (!response.ok) throw new Error(`The file of ${name} cannot be loaded (${response.status}).`);
    assets.set(asset, await readGlb(new Uint8Array(await response.arrayBuffer()), name));
  }
}

async function present(): Promise<void> {
  if (!renderer || !show) return;
  const mine = show;
  try {
    await fetchAssets(mine.setup);
    if (mine !== show) return;
    const before = scene;
    scene = compile(mine.setup, (sha) => assets.get(sha), before);
    if (scene.geometry !== before?.geometry) tell({ type: 'state', state: 'building' });
    renderer.update(scene, { width: mine.width, height: mine.height, samples: TARGET, seed: 1, bounces: BOUNCES, coarse: true });
    schedule(0);
  } catch (error) {
    fail(error);
  }
}

/** Develops a picture soon; never more often than the page can paint it. */
function schedule(wait: number): void {
  if (timer !== undefined) return;
  const due = Math.max(wait === 0 ? 0 : FRAME_MS - (performance.now() - lastFrame), 0);
  timer = setTimeout(() => {
    timer = undefined;
    developFrame();
  }, due);
}

function voices(setup: Setup, solo: string | undefined): (Voice & { id: string })[] {
  const gains = setupGains(setup, solo);
  const out: (Voice & { id: string })[] = [];
  for (const id of setup.lights.order) {
    const films = renderer!.shown(id);
    if (films && films.film.width === show!.width && films.film.height === show!.height)
      out.push({ id, film: films.film, coarse: films.coarse, gain: gains[id]! });
  }
  return out;
}

function developFrame(): void {
  if (!renderer || !show || !renderer.films.size) {
    if (show && renderer) emptyFrame(show);
    return;
  }
  const { setup, width, height, mode } = show;
  const start = performance.now();
  if (linear.length !== width * height * 3) linear = new Float32Array(width * height * 3);
  balance(voices(setup, mode.kind === 'share' ? mode.light : show.solo), linear);
  const rgba = new Uint8ClampedArray(width * height * 4);
  develop(linear, setup.look.view, rgba);
  const balanceMs = performance.now() - start;
  const { bins, clipped, crushed } = tonesOf(linear);
  const { samples, done, msLeft } = renderer.progress();
  lastFrame = performance.now();
  const answers = renderer.presentable ? shows : 0;
  tell(
    {
      type: 'frame',
      width,
      height,
      rgba: rgba.buffer,
      bins,
      clipped,
      crushed,
      samples,
      target: TARGET,
      done,
      msLeft,
      rays: poolRays.walk + poolRays.shadow,
      balanceMs,
      answers,
    },
    [rgba.buffer],
  );
  tell({ type: 'state', state: renderer.finished ? 'finished' : 'tracing' });
  if (lastFrame - lastThumbs > THUMB_MS || renderer.finished) developThumbs();
  else if (!renderer.finished) schedule(FRAME_MS);
}

function emptyFrame({ width, height }: Show): void {
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let i = 3; i < rgba.length; i += 4) rgba[i] = 255;
  tell(
    {
      type: 'frame',
      width,
      height,
      rgba: rgba.buffer,
      bins: new Uint32Array(120),
      clipped: 0,
      crushed: 1,
      samples: 0,
      target: 0,
      done: 1,
      msLeft: 0,
      rays: 0,
      balanceMs: 0,
      answers: shows,
    },
    [rgba.buffer],
  );
  tell({ type: 'thumbs', thumbs: [] });
}

/** Every light's own share, small, at the level that it has. */
function developThumbs(): void {
  const { setup, width, height, thumb } = show!;
  const alone = new Float32Array(width * height * 3);
  const thumbs = setup.lights.order.flatMap((id) => {
    // a share is shown at its level, also while the light is off
    const voice = voices(setup, id).find((v) => v.id === id);
    if (!voice) return [];
    balance([voice], alone);
    const [w, h] = thumb;
    // the middle of the picture in the card's shape, where the face is
    const rgba = new Uint8ClampedArray(w * h * 4);
    develop(shrink(crop(alone, width, height, w / h), width, cropHeight(width, height, w / h), w, h), setup.look.view, rgba);
    return [{ id, width: w, height: h, rgba: rgba.buffer }];
  });
  lastThumbs = performance.now();
  tell(
    { type: 'thumbs', thumbs },
    thumbs.map((t) => t.rgba),
  );
}

const cropHeight = (width: number, height: number, aspect: number): number => Math.min(height, Math.round(width / aspect));

/** The band of a picture that holds the head, in another shape. */
function crop(linearPicture: Float32Array, width: number, height: number, aspect: number): Float32Array {
  const h = cropHeight(width, height, aspect);
  const from = Math.round((height - h) * 0.38);
  return linearPicture.subarray(from * width * 3, (from + h) * width * 3);
}

async function inspect({ request, fileName, bytes }: Extract<ToEngine, { type: 'inspect' }>): Promise<void> {
  try {
    tell({ type: 'inspected', request, report: reportOf(await readGlb(new Uint8Array(bytes), fileName), fileName) });
  } catch (error) {
    const known = error instanceof ImportError;
    tell({
      type: 'refused',
      request,
      code: known ? error.code : 'broken',
      message: error instanceof Error ? error.message : String(error),
    });
  }
}

function exportPng({ request, setup }: Extract<ToEngine, { type: 'export' }>): void {
  const { width, height } = show!;
  const picture = new Float32Array(width * height * 3);
  balance(voices(setup, undefined), picture);
  const rgba = new Uint8ClampedArray(width * height * 4);
  develop(picture, setup.look.view, rgba);
  const png = writePng(width, height, rgba, setup);
  const buffer = png.buffer.slice(png.byteOffset, png.byteOffset + png.byteLength) as ArrayBuffer;
  tell({ type: 'exported', request, png: buffer }, [buffer]);
}

scope.onmessage = ({ data }) => {
  switch (data.type) {
    case 'open':
      void open(data.urls).catch(fail);
      break;
    case 'show':
      show = data;
      shows++;
      void present();
      break;
    case 'inspect':
      void inspect(data);
      break;
    case 'export':
      try {
        exportPng(data);
      } catch (error) {
        fail(error);
      }
  }
};
