// The Stage's engine: holds the films, hands work to the tracing workers, balances and develops. The page only paints.
import {
  orderOf,
  applyTouches,
  balance,
  compile,
  Developer,
  falseTones,
  hasTouches,
  ImportError,
  noiseOf,
  setupGains,
  tonesOf,
  writePng,
  type Look,
  type Scene,
  type SceneLight,
  type Setup,
  type Voice,
} from '@plinket/core';
import { Renderer } from '@plinket/engine';
import { browserFilmMath, browserPool } from '@plinket/engine/browser';
import type { FilmMath } from '@plinket/engine';
import { characterOf, reportOf, type FromEngine, type ToEngine } from './messages.ts';
import { Characters } from './characters.ts';
import { keptBlob, StageFiles } from './files.ts';
import { alphaPicture, layBehind, pickAt } from './guide-views.ts';
import { KnownColours } from './known-colours.ts';
import { Smoothing } from './smoothing.ts';
import { ThumbMaker } from './thumbs.ts';

/** Samples a pixel at which the Stage's picture rests, at the latest. */
const TARGET = 256;
/** A tile rests when its noise is below so many steps of 8 bit: raw, and where noise is removed anyway. */
const ENOUGH = 1;
const ENOUGH_SMOOTHED = 2.5;
const LEAST = 16;
const BOUNCES = 3;
const FRAME_MS = 70;
/** Developing takes at most one part in so many of this worker's time: results must not wait for pictures. */
const FRAME_SHARE = 3;
/** Small pictures and the noise's number come so often; seldom while a hand waits for the large one. */
const THUMB_MS = 450,
  THUMB_HAND_MS = 1400;
/** A hand that has changed nothing for so long rests. */
const HAND_MS = 300;
/** The pseudo light that holds how open surfaces lie, and its reach in metres. */
const OPENNESS: SceneLight = { id: '~openness', key: 'openness 0.5', kind: 'openness', reach: 0.5 };

interface Scope {
  postMessage(message: FromEngine, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ToEngine>) => void) | null;
}
const scope = globalThis as unknown as Scope;
const tell = (message: FromEngine, transfer: Transferable[] = []) => scope.postMessage(message, transfer);
const fail = (error: unknown) => tell({ type: 'failed', message: error instanceof Error ? error.message : String(error) });

type Show = Extract<ToEngine, { type: 'show' }>;

/** What stands once the engine is open. */
interface Bench {
  renderer: Renderer;
  math: FilmMath;
  developer: Developer;
  smoothing: Smoothing;
  thumbs: ThumbMaker;
  rays: { walk: number; shadow: number };
}

let bench: Bench | undefined;
let scene: Scene | undefined;
let show: Show | undefined;
/** Wishes so far, the last that a picture answered, and the last for which was asked which parts may rest. */
let shows = 0,
  answered = 0,
  asked = 0;
const colours = new KnownColours();
let linear: Float32Array | undefined;
let rgba: Uint8ClampedArray<ArrayBufferLike> | undefined;
let noise = Infinity;
let judged = '';
let smoothing = false;
let lastShow = 0;
let lastFrame = 0,
  frameCost = 0,
  lastThumbs = 0;
let timer: ReturnType<typeof setTimeout> | undefined;
let dueAt = 0;

let dracoUrl = '';
const draco = async (): Promise<Uint8Array> => new Uint8Array(await (await fetch(dracoUrl)).arrayBuffer());
const characters = new Characters(keptBlob, { draco });
const files = new StageFiles(characters);

async function open(urls: Extract<ToEngine, { type: 'open' }>['urls']): Promise<void> {
  dracoUrl = urls.draco;
  tell({ type: 'state', state: 'loading' });
  const [pool, math] = await Promise.all([browserPool(urls), browserFilmMath(urls.film)]);
  const renderer = new Renderer(pool, math);
  // the first picture that answers a wish does not wait its turn; until it can be shown there is nothing new to develop
  renderer.onProgress = () => {
    if (answered < renderer.shownMark) schedule(0);
    else if (renderer.presentable || answered === 0) schedule(FRAME_MS);
  };
  renderer.onError = fail;
  bench = {
    renderer,
    math,
    developer: new Developer(math),
    smoothing: new Smoothing(math),
    thumbs: new ThumbMaker(math),
    rays: pool.rays,
  };
  await present();
}

async function present(): Promise<void> {
  if (!bench || !show) return;
  const mine = show,
    number = shows;
  try {
    await files.fetch(mine.setup);
    if (mine !== show) return;
    const { setup, width, height, mode } = mine;
    const before = scene;
    scene = compile(setup, (sha) => characters.known.get(sha), before, { clay: mine.clay, files: files.lights });
    if (scene.geometry !== before?.geometry) tell({ type: 'state', state: 'building' });
    // the developer's curve is needed to judge noise before the first picture is developed
    const grey = new Float32Array(3);
    developGrey(setup.look, grey);
    const smooth = setup.look.smooth > 0;
    const lights = mode.kind === 'openness' ? [...scene.lights, OPENNESS] : scene.lights;
    bench.renderer.update(
      { ...scene, lights },
      {
        width,
        height,
        samples: TARGET,
        seed: 1,
        bounces: BOUNCES,
        coarse: true,
        adaptive: {
          enough: smooth ? ENOUGH_SMOOTHED : ENOUGH,
          least: LEAST,
          noise: (tile) => noiseOf(voices(show!.setup, []), tile, (y) => bench!.developer.shown(y)),
        },
      },
      number,
    );
    // where only balance or look changed there is no ray to wait for
    if (bench.renderer.shownMark === number || answered === 0) schedule(0);
  } catch (error) {
    fail(error);
  }
}

/** Makes the developer's tables for a look, by way of one pixel. */
function developGrey(look: Look, grey: Float32Array): void {
  const { math, developer } = bench!;
  const key = JSON.stringify(look);
  if (key === judged) return;
  judged = key;
  const one = math.floats(3),
    out = math.bytes(4);
  one.set(grey);
  developer.develop(one, 1, look, out, files.cube(look));
  math.free(one);
  math.free(out);
}

/** Develops a picture soon; never more often than the page can paint it, unless it is wanted now (0). */
function schedule(wait: number): void {
  const pause = Math.max(FRAME_MS, frameCost * (FRAME_SHARE - 1));
  const due = Math.max(wait === 0 ? 0 : pause - (performance.now() - lastFrame), 0);
  const at = performance.now() + due;
  // what is due sooner stays; asking again must not put it off
  if (timer !== undefined && dueAt <= at + 1) return;
  clearTimeout(timer);
  dueAt = at;
  timer = setTimeout(() => {
    timer = undefined;
    try {
      developFrame();
    } catch (error) {
      fail(error);
    }
  }, due);
}

function voices(setup: Setup, solo: readonly string[]): (Voice & { id: string })[] {
  const gains = setupGains(setup, solo);
  const out: (Voice & { id: string })[] = [];
  for (const id of orderOf(setup.lights)) {
    const films = bench!.renderer.shown(id);
    if (!films || films.film.width !== show!.width || films.film.height !== show!.height) continue;
    const { film, coarse } = films;
    const voice = { id, film, gain: gains[id]!, smooth: setup.look.smooth };
    // where noise is removed anyway, the coarse picture is the better one until it has been
    out.push(coarse ? { ...voice, coarse, waits: setup.look.smooth > 0 && !film.smooth } : voice);
  }
  return out;
}

/** Room for pictures of the current size, in the films' memory. */
function room({ width, height }: Show): { linear: Float32Array; rgba: Uint8ClampedArray<ArrayBufferLike> } {
  const { math } = bench!;
  if (!linear || !rgba || linear.length !== width * height * 3) {
    if (linear) math.free(linear);
    if (rgba) math.free(rgba);
    linear = math.floats(width * height * 3);
    rgba = math.bytes(width * height * 4);
  }
  return { linear, rgba };
}

function developFrame(): void {
  if (!bench || !show) return;
  const { renderer, math, developer } = bench;
  const { setup, width, height, mode } = show;
  const start = performance.now();
  const picture = room(show);
  const heard = voices(setup, mode.kind === 'share' ? [mode.light] : show.solo);
  balance(math, heard, picture.linear, colours.for(renderer.guides, heard));
  layBehind(setup.plate, picture.linear, bench!.renderer.guides, files.lights);
  const { bins, clipped, crushed } = tonesOf(picture.linear);
  if (mode.kind === 'tones') falseTones(picture.linear, picture.rgba);
  else if (mode.kind === 'alpha') alphaPicture(renderer.guides, picture.rgba);
  else if (mode.kind === 'openness') opennessPicture(picture.linear, picture.rgba, width);
  else {
    if (hasTouches(setup.look)) applyTouches(picture.linear, width, height, setup.look);
    developer.develop(picture.linear, width, setup.look, picture.rgba, files.cube(setup.look));
  }
  const balanceMs = performance.now() - start;
  const { samples, most, done, msLeft } = renderer.progress();
  lastFrame = performance.now();
  const handAtWork = lastFrame - lastShow < HAND_MS;
  const thumbsDue = lastFrame - lastThumbs > (handAtWork ? THUMB_HAND_MS : THUMB_MS) || renderer.finished;
  if (thumbsDue) noise = noiseOf(voices(setup, []), { x: 0, y: 0, width, height }, (y) => developer.shown(y));
  const pixels = new Uint8Array(picture.rgba).buffer as ArrayBuffer;
  tell(
    {
      type: 'frame',
      width,
      height,
      rgba: pixels,
      bins,
      clipped,
      crushed,
      samples,
      most,
      target: TARGET,
      finished: renderer.finished,
      done,
      msLeft,
      noise,
      smoothed: setup.look.smooth > 0 && heard.length > 0 && heard.every((v) => v.film.smooth !== undefined),
      rays: bench.rays.walk + bench.rays.shadow,
      balanceMs,
      answers: renderer.shownMark,
    },
    [pixels],
  );
  tell({ type: 'state', state: renderer.finished ? 'finished' : 'tracing' });
  if (thumbsDue) {
    developThumbs();
    if (asked !== shows) {
      asked = shows;
      renderer.rejudge();
      renderer.resume();
    }
  }
  answered = renderer.shownMark;
  frameCost = performance.now() - start;
  lastFrame = performance.now();
  if (setup.look.smooth > 0) smoothSoon();
  if (!renderer.finished && renderer.presentable) schedule(FRAME_MS);
}

/** Noise is removed part by part, and not while a hand is at work: between parts the worker answers. */
function smoothSoon(): void {
  if (smoothing) return;
  smoothing = true;
  const go = () => {
    smoothing = false;
    if (!bench || !show || show.setup.look.smooth === 0) return;
    const quiet = performance.now() - lastShow;
    if (quiet < HAND_MS) {
      smoothing = true;
      setTimeout(go, HAND_MS - quiet);
      return;
    }
    const step = bench.smoothing.step(bench.renderer);
    if (step === 'film') schedule(0);
    if (step !== 'none') smoothSoon();
    else if (bench.renderer.finished) bench.smoothing.release();
  };
  setTimeout(go, 0);
}

function opennessPicture(picture: Float32Array, out: Uint8ClampedArray<ArrayBufferLike>, width: number): void {
  const { renderer, math, developer } = bench!;
  const films = renderer.shown(OPENNESS.id);
  const full = { diffuse: [1, 1, 1], specular: [0, 0, 0], volume: [0, 0, 0] } as Voice['gain'];
  balance(math, films ? [{ ...films, gain: full }] : [], picture);
  const { setup } = show!;
  developer.develop(picture, width, { ...setup.look, view: 'plain', white: 6500, contrast: 1 }, out);
  judged = '';
  developGrey(setup.look, new Float32Array(3));
}

/** Every light's own share, small, at the level that it has, also while the light is off. */
function developThumbs(): void {
  const { setup, thumb } = show!;
  const thumbs = orderOf(setup.lights).flatMap((id) => {
    const films = bench!.renderer.shown(id);
    return films ? [bench!.thumbs.make(id, films, setupGains(setup, [id])[id]!, setup.look, thumb)] : [];
  });
  lastThumbs = performance.now();
  tell(
    { type: 'thumbs', thumbs },
    thumbs.map((t) => t.rgba),
  );
}

/** Answers a question when its work is done, or says why it cannot be. */
function reply(request: number, work: Promise<[message: FromEngine, transfer?: Transferable[]]>): void {
  work
    .then(([message, transfer]) => tell(message, transfer))
    .catch((error: unknown) =>
      tell({
        type: 'refused',
        request,
        code: error instanceof ImportError ? error.code : 'broken',
        message: error instanceof Error ? error.message : String(error),
      }),
    );
}

type About = Extract<ToEngine, { type: 'head' | 'proxy' | 'shelved' | 'stand-in' | 'parts' }>;

/** Questions about characters. */
async function aboutCharacters(data: About): Promise<[FromEngine, Transferable[]?]> {
  const { request } = data;
  switch (data.type) {
    case 'stand-in': {
      const { report, glb } = await characters.standIn(data.kind);
      return [{ type: 'inspected', request, report, glb }, [glb]];
    }
    case 'shelved':
      return [{ type: 'inspected', request, report: reportOf(await characters.load(data.asset, data.name), data.name) }];
    case 'parts':
      // who asks may be quicker than the picture that loads it
      return [{ type: 'parts', request, character: characterOf(await characters.load(data.asset, 'the character'), data.pose, data.head) }];
    case 'head':
      return [{ type: 'head', request, report: await characters.head(data.asset, data.name, data.head) }];
    case 'proxy': {
      const proxy = await characters.proxy(data.asset, data.name, data.pose);
      return [{ type: 'proxied', request, proxy }, Object.values(proxy).map((array) => (array as Float32Array).buffer)];
    }
  }
}

function exportPng({ request, setup }: Extract<ToEngine, { type: 'export' }>): void {
  const { width, height } = show!;
  const picture = room(show!);
  const heard = voices(setup, []);
  balance(bench!.math, heard, picture.linear, colours.for(bench!.renderer.guides, heard));
  layBehind(setup.plate, picture.linear, bench!.renderer.guides, files.lights);
  if (hasTouches(setup.look)) applyTouches(picture.linear, width, height, setup.look);
  bench!.developer.develop(picture.linear, width, setup.look, picture.rgba, files.cube(setup.look));
  const png = writePng(width, height, new Uint8Array(picture.rgba), setup);
  const buffer = png.buffer.slice(png.byteOffset, png.byteOffset + png.byteLength) as ArrayBuffer;
  tell({ type: 'exported', request, png: buffer }, [buffer]);
}

/** Every share alone as it would be developed, and all together. */
function contactPictures({ request, setup }: Extract<ToEngine, { type: 'contact' }>): void {
  const { width, height } = show!;
  const picture = room(show!);
  const developed = (id: string, solo: readonly string[]) => {
    const heard = voices(setup, solo);
    balance(bench!.math, heard, picture.linear, colours.for(bench!.renderer.guides, heard));
    bench!.developer.develop(picture.linear, width, setup.look, picture.rgba, files.cube(setup.look));
    return { id, width, height, rgba: new Uint8Array(picture.rgba).buffer as ArrayBuffer };
  };
  const pictures = [...orderOf(setup.lights).map((id) => developed(id, [id])), developed('', [])];
  tell(
    { type: 'contacts', request, pictures },
    pictures.map((p) => p.rgba),
  );
}

function answer(data: ToEngine): void {
  switch (data.type) {
    case 'open':
      void open(data.urls).catch(fail);
      break;
    case 'show':
      show = data;
      shows++;
      lastShow = performance.now();
      void present();
      break;
    case 'head':
    case 'proxy':
    case 'shelved':
    case 'stand-in':
    case 'parts':
      reply(data.request, aboutCharacters(data));
      break;
    case 'pick':
      tell({ type: 'picked', request: data.request, picked: bench && scene && pickAt(bench.renderer.guides, scene, data.x, data.y) });
      break;
    case 'export':
      exportPng(data);
      break;
    case 'contact':
      contactPictures(data);
  }
}

scope.onmessage = ({ data }) => {
  try {
    answer(data);
  } catch (error) {
    fail(error);
  }
};
