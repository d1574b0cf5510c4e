import { orderOf, withRanks } from '@plinket/core';
import type { Patch } from '@plinket/core';
import { Lock, LockOpen, Plus, Trash2, Video } from 'lucide-react';
import { keepPicture, pictureThrough, viewOf } from './camera-pictures.ts';
import { browserStorage } from '../parts/storage.ts';
import { useDoc, useStage } from './context.ts';
import { freeId } from '@plinket/core';
import { letters } from '../parts/letters.ts';

/** Height of a camera's picture, pixels. */
const TALL = 30;

/** A picture made small. */
function small(canvas: HTMLCanvasElement): string {
  const scaled = Object.assign(document.createElement('canvas'), {
    width: Math.max(1, Math.round((canvas.width / canvas.height) * TALL * 2)),
    height: TALL * 2,
  });
  const pen = scaled.getContext('2d')!;
  pen.imageSmoothingQuality = 'high';
  pen.drawImage(canvas, 0, 0, scaled.width, scaled.height);
  return scaled.toDataURL('image/jpeg', 0.8);
}

/** What was last seen through a camera in this browser; a mark where nothing was. */
function Through({ picture }: { picture: string | undefined }) {
  return picture ? (
    <img src={picture} alt="" height={TALL} className="h-[30px] w-auto rounded-l-sm" />
  ) : (
    <span className="quiet grid h-[30px] w-6 place-items-center">
      <Video size={12} />
    </span>
  );
}

/** The camera in use, and those that are kept: taking one up keeps the other. */
export function Cameras() {
  const { doc, view, engine, canvas } = useStage();
  const setup = useDoc((d) => d.id);
  const camera = useDoc((d) => d.setup.camera);
  const cameras = useDoc((d) => d.setup.cameras);
  const { change } = doc.getState();
  /** The picture as it is now goes along with the camera that is left; what is measured or seen from elsewhere is not its picture. */
  const snap = () => {
    const { mode, clay, frame } = view.getState();
    if (canvas.current && frame?.wish === engine.wish && mode === 'light' && !clay)
      keepPicture(browserStorage, viewOf(setup, camera), small(canvas.current));
  };
  const keep = () => {
    snap();
    const id = freeId(cameras.items, 'camera', letters());
    change({
      cameras: { items: withRanks(cameras, { [id]: camera }) as unknown as Patch },
      camera: { name: `${camera.name.replace(/ \d+$/, '')} ${orderOf(cameras).length + 2}`.slice(0, 60) },
    });
  };
  const take = (id: string) => {
    snap();
    const { rank: _, ...kept } = cameras.items[id]!;
    change({ camera: kept as unknown as Patch, cameras: { items: { [id]: camera as unknown as Patch } } });
  };
  const remove = (id: string) => change({ cameras: { items: { [id]: null } } });
  return (
    <div className="flex flex-wrap items-center gap-1 pb-1" data-testid="cameras">
      <input
        className="w-28 rounded-sm bg-base-300 px-1.5 font-semibold"
        aria-label="Name of the camera"
        key={camera.name}
        defaultValue={camera.name}
        maxLength={60}
        onBlur={(e) => e.target.value.trim() && e.target.value !== camera.name && change({ camera: { name: e.target.value.trim() } })}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          e.stopPropagation();
        }}
      />
      <button
        className="btn btn-ghost btn-xs px-1"
        aria-pressed={camera.locked}
        aria-label="Lock the camera"
        title="Drags and the wheel leave it where it is"
        onClick={() => change({ camera: { locked: !camera.locked } })}
      >
        {camera.locked ? <Lock size={12} className="text-warning" /> : <LockOpen size={12} />}
      </button>
      {orderOf(cameras).map((id) => (
        <span key={id} className="flex items-center rounded-sm border hairline">
          <button className="flex items-center gap-1.5 pr-1.5 hover:bg-base-300" onClick={() => take(id)}>
            <Through picture={pictureThrough(browserStorage, viewOf(setup, cameras.items[id]!))} />
            {cameras.items[id]!.name}
          </button>
          <button className="quiet px-0.5" aria-label={`Remove ${cameras.items[id]!.name}`} onClick={() => remove(id)}>
            <Trash2 size={10} />
          </button>
        </span>
      ))}
      <button
        className="btn btn-ghost btn-xs px-1"
        onClick={keep}
        title="Keeps this camera and goes on with a copy"
        data-testid="keep-camera"
      >
        <Plus size={12} /> camera
      </button>
    </div>
  );
}
