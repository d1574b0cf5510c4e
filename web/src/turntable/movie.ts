// Frames as a movie that a browser writes by itself: WebM, its frames evenly in time, so that it loops without a stutter.
import { BufferTarget, CanvasSource, getFirstEncodableVideoCodec, Output, QUALITY_HIGH, WebMOutputFormat } from 'mediabunny';
import type { TurnFrame } from '../engine/turn-messages.ts';

/** Writes frames one after the other, in their order. */
export class MovieWriter {
  private readonly canvas: OffscreenCanvas;
  private readonly output: Output<WebMOutputFormat, BufferTarget>;
  private readonly source: CanvasSource;
  private readonly fps: number;
  private count = 0;

  private constructor(width: number, height: number, fps: number, codec: ConstructorParameters<typeof CanvasSource>[1]['codec']) {
    this.fps = fps;
    this.canvas = new OffscreenCanvas(width, height);
    this.source = new CanvasSource(this.canvas, { codec, bitrate: QUALITY_HIGH });
    this.output = new Output({ format: new WebMOutputFormat(), target: new BufferTarget() });
    this.output.addVideoTrack(this.source, { frameRate: fps });
  }

  /** @throws Error where this browser can write no movie of that size */
  static async open(width: number, height: number, fps: number): Promise<MovieWriter> {
    const codec = await getFirstEncodableVideoCodec(['vp9', 'vp8', 'av1'], { width, height });
    if (!codec) throw new Error('this browser encodes no WebM: have the frames and join them by the command line');
    const writer = new MovieWriter(width, height, fps, codec);
    await writer.output.start();
    return writer;
  }

  /** Adds the next frame. */
  async add({ width, height, rgba }: TurnFrame): Promise<void> {
    this.canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(rgba), width, height), 0, 0);
    await this.source.add(this.count++ / this.fps, 1 / this.fps);
  }

  /** Adds a picture for so many frames, as large as the movie has room for. */
  async addPicture(picture: ImageBitmap, frames = 1): Promise<void> {
    const { width, height } = this.canvas,
      context = this.canvas.getContext('2d')!,
      k = Math.min(width / picture.width, height / picture.height);
    context.fillStyle = '#000';
    context.fillRect(0, 0, width, height);
    context.drawImage(picture, (width - picture.width * k) / 2, (height - picture.height * k) / 2, picture.width * k, picture.height * k);
    for (let i = 0; i < frames; i++) await this.source.add(this.count++ / this.fps, 1 / this.fps);
  }

  async finish(): Promise<Blob> {
    await this.output.finalize();
    return new Blob([this.output.target.buffer!], { type: 'video/webm' });
  }

  /** Nobody wants it any more. */
  async cancel(): Promise<void> {
    await this.output.cancel();
  }
}
