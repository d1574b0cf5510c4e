import { FileUp } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { useFileDrop } from '../../parts/drop.ts';
import { Empty } from '../../parts/Empty.tsx';
import { PageHeader } from '../../parts/PageHeader.tsx';
import { Room } from './Room.tsx';
import type { Gradable } from './useGrade.ts';

/** An EXR of ours from a disk. */
export function BalanceFilePage() {
  const [frame, setFrame] = useState<Gradable>();
  const input = useRef<HTMLInputElement>(null);
  const bring = (file: File | undefined) => {
    if (!file) return;
    if (!/\.exr$/i.test(file.name))
      return void toast.error(`${file.name} is no EXR: only files that the Lab has rendered with their lights can be balanced.`);
    void file
      .arrayBuffer()
      .then((bytes) => setFrame({ key: `${file.name} ${Date.now()}`, label: file.name, films: new Uint8Array(bytes) }))
      .catch((error: Error) => toast.error(`${file.name} was not read: ${error.message}`));
  };
  useFileDrop((files) => bring(files[0]));
  if (frame) return <Room key={frame.key} frames={[frame]} at={0} go={() => undefined} />;
  return (
    <div className="flex h-full flex-col">
      <PageHeader title="Balance">{null}</PageHeader>
      <Empty
        title="A finished picture from a disk"
        action={
          <>
            <button className="btn btn-primary btn-sm" onClick={() => input.current?.click()}>
              <FileUp size={14} /> Open an EXR
            </button>
            <input
              ref={input}
              type="file"
              accept=".exr"
              hidden
              aria-label="EXR of a finished picture"
              onChange={(e) => {
                bring(e.target.files?.[0]);
                e.target.value = '';
              }}
            />
          </>
        }
      >
        An EXR that the Lab has rendered with every light on its own. Nothing is sent anywhere: it is read here.
      </Empty>
    </div>
  );
}
