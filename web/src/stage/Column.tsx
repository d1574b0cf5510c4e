import { Columns3, PanelBottom, PanelTop, Rows2, ScanFace, type LucideIcon } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { useSize } from '../parts/size.ts';
import { browserStorage } from '../parts/storage.ts';
import { useStage, useView } from './context.ts';
import { Diagram } from './Diagram.tsx';
import { chosenDrawings, drawingBoxes, drawingsFor, keepDrawings, type Box, type Drawings } from './room.ts';
import { Reading } from './reading/Reading.tsx';
import { Sheet } from './Sheet.tsx';

const CHOICES: [Drawings, LucideIcon, string][] = [
  ['plan', PanelTop, 'PLAN large, SIDE and READING below'],
  ['side', PanelBottom, 'SIDE large, PLAN and READING below'],
  ['both', Columns3, 'PLAN, SIDE and READING side by side'],
  ['reading', ScanFace, 'READING large, PLAN and SIDE below'],
  ['none', Rows2, 'PLAN, SIDE and READING folded away'],
];

/** Height of the buttons that choose the room, over the right end of the first row, pixels. */
const BUTTONS = 30;

/** How the drawings share the room: what suits the open sheet, or was chosen for it. It stays while something is under the hand. */
function useDrawings(): [Drawings, (drawings: Drawings) => void] {
  const sheet = useView((v) => v.sheet);
  const dragging = useView((v) => v.dragging);
  const [chosen, setChosen] = useState(() => chosenDrawings(browserStorage));
  const now = drawingsFor(sheet, chosen);
  const shown = useRef(now);
  if (!dragging) shown.current = now;
  return [
    shown.current,
    (drawings) => {
      const next = { ...chosen, [sheet]: drawings };
      setChosen(next);
      keepDrawings(browserStorage, next);
    },
  ];
}

/** The right column: PLAN, SIDE and the reading, and the sheet of what is in hand. */
export function Column() {
  const { view } = useStage();
  const [ref, box] = useSize<HTMLDivElement>({ width: 420, height: 576 });
  const [drawings, choose] = useDrawings();
  const { plan, side, reading } = drawingBoxes(box, drawings);
  const drawing = (kind: 'plan' | 'side', size: Box | undefined) => size && <Diagram key={kind} kind={kind} {...size} />;
  const read = reading && <Reading key="reading" {...reading} top={drawings === 'both' ? BUTTONS : 0} />;
  const row = (...things: ReactNode[]) => (
    <div key="row" className="flex divide-x divide-base-content/15">
      {things}
    </div>
  );
  return (
    <div ref={ref} className="flex w-[clamp(420px,29vw,680px)] flex-col border-l hairline" data-testid="column" data-drawings={drawings}>
      <div className="relative">
        <div
          className="absolute top-1 right-1.5 z-10 flex rounded-sm bg-base-200/75"
          role="group"
          aria-label="Room for plan, side and reading"
        >
          {CHOICES.map(([name, Icon, title]) => (
            <button
              key={name}
              className={`rounded-sm p-1.5 ${drawings === name ? 'text-base-content' : 'text-base-content/60 hover:text-base-content'}`}
              aria-pressed={drawings === name}
              aria-label={title}
              title={title}
              onClick={() => {
                choose(name);
                view.setState({ dragging: false });
              }}
            >
              <Icon size={13} />
            </button>
          ))}
        </div>
        {drawings === 'none' && <h2 className="caps quiet h-7 px-3 pt-1.5">plan · side · reading</h2>}
        <div className={drawings === 'both' ? 'flex divide-x divide-base-content/15' : 'flex flex-col divide-y divide-base-content/15'}>
          {drawings === 'both'
            ? [drawing('plan', plan), drawing('side', side), read]
            : drawings === 'reading'
              ? [read, row(drawing('plan', plan), drawing('side', side))]
              : drawings === 'side'
                ? [drawing('side', side), row(drawing('plan', plan), read)]
                : [drawing('plan', plan), row(drawing('side', side), read)]}
        </div>
      </div>
      <Sheet />
    </div>
  );
}
