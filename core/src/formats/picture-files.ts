// Pictures for people: of kits, as PNG or JPEG.
import { decodePicture, PictureError } from './glb/pictures.ts';
import { isPng } from './light-files.ts';

/** What a picture is. @throws PictureError with the reason */
export function inspectPicture(bytes: Uint8Array): { width: number; height: number } {
  const jpeg = bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff;
  if (!jpeg && !isPng(bytes)) throw new PictureError('This is no PNG and no JPEG: its beginning is none of theirs.');
  const { width, height } = decodePicture(bytes, jpeg ? 'image/jpeg' : 'image/png', 'The picture');
  return { width, height };
}
