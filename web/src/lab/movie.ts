import type { JobFrame } from '@plinket/contract';
import { MovieWriter } from '../turntable/movie.ts';

/** Frames a second of a job's movie. */
const FPS = 24;
/** A single still stays so long, s: a sequence of stills is to be looked at, not to flash by. */
const STILL_SECONDS = 1.5;

/** Finished frames, in their order, as a movie. Where every picture is another's shot, each stays a while. */
export async function movieOf(frames: readonly JobFrame[]): Promise<Blob> {
  const first = await pictureOf(frames[0]!);
  const writer = await MovieWriter.open(first.width - (first.width % 2), first.height - (first.height % 2), FPS);
  const stills = new Set(frames.map((f) => f.label)).size === frames.length;
  try {
    for (const frame of frames) {
      const picture = await pictureOf(frame);
      await writer.addPicture(picture, stills ? Math.round(STILL_SECONDS * FPS) : 1);
      picture.close();
    }
    return await writer.finish();
  } catch (error) {
    await writer.cancel();
    throw error;
  } finally {
    first.close();
  }
}

async function pictureOf({ files, label, frame }: JobFrame): Promise<ImageBitmap> {
  const png = files.find((f) => f.name.endsWith('.png'));
  const response = png && (await fetch(`/api/blobs/${png.sha256}`));
  if (!response?.ok) throw new Error(`the picture of ${label} ${frame} is not there`);
  return createImageBitmap(await response.blob());
}
