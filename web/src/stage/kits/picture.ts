// A small picture of what the Stage shows, for a kit that is kept.
import { api } from '../../api/client.ts';

/** Height of a kit's picture, px. */
const HEIGHT = 210;

/** Keeps what a canvas shows as a small picture. @returns its SHA-256; nothing where nothing is shown yet, or it could not be kept: a kit needs none */
export async function kitPicture(canvas: HTMLCanvasElement | null): Promise<string | undefined> {
  if (!canvas || canvas.width === 0 || canvas.height === 0) return undefined;
  const small = document.createElement('canvas');
  Object.assign(small, { height: HEIGHT, width: Math.max(1, Math.round((HEIGHT * canvas.width) / canvas.height)) });
  const context = small.getContext('2d')!;
  context.imageSmoothingQuality = 'high';
  context.drawImage(canvas, 0, 0, small.width, small.height);
  const blob = await new Promise<Blob | null>((done) => small.toBlob(done, 'image/jpeg', 0.88));
  if (!blob) return undefined;
  return api.addPicture('kit.jpg', blob).then(
    ({ sha256 }) => sha256,
    () => undefined,
  );
}
