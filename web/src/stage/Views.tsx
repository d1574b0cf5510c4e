import { orderOf } from '@plinket/core';
import { letterOf } from '../parts/identity.ts';
import { inHand, useDoc, useStage, useViewOf, type ViewState } from './context.ts';

function View({
  label,
  title,
  active,
  disabled,
  onPick,
}: {
  label: string;
  title: string;
  active: boolean;
  disabled?: boolean;
  onPick(): void;
}) {
  return (
    <button
      className={`w-full rounded px-2 py-1 text-left ${active ? 'bg-base-200 font-semibold' : 'hover:bg-base-300/60'} disabled:opacity-40`}
      aria-pressed={active}
      disabled={disabled}
      title={title}
      onClick={onPick}
    >
      {label}
    </button>
  );
}

/** What the picture shows, and how it is looked at. */
export function Views({ hasProof }: { hasProof: boolean }) {
  const { view } = useStage();
  const order = useDoc((d) => orderOf(d.setup.lights));
  const { selected, also, solo, exaggerated, mode, along, afar, clay, wipe, set } = useViewOf(
    'selected',
    'also',
    'solo',
    'exaggerated',
    'mode',
    'along',
    'afar',
    'clay',
    'wipe',
    'set',
  );
  const letter = (id: string | undefined) => (id === undefined ? '' : letterOf(order.indexOf(id)));
  const share = mode === 'share' && selected !== undefined;
  const said =
    along !== undefined
      ? `along ${letter(along)}`
      : exaggerated
        ? `${inHand({ selected, also }).map(letter).join(' ')} three stops up`
        : solo.length > 0
          ? `${solo.map(letter).join(' ')} alone`
          : share
            ? `share of ${letter(selected)}`
            : undefined;
  const modes: [ViewState['mode'], string, string][] = [
    ['light', 'Light', 'All lights, as balanced'],
    ['share', selected ? `Share ${letter(selected)}` : 'Share', 'What the selected light alone gives'],
    ['tones', 'Stops', 'Every tone by its stop around middle grey'],
    ['openness', 'Openness', 'How much of the half metre around a point is open'],
    ['alpha', 'Alpha', 'What is covered'],
  ];
  return (
    <nav aria-label="What the picture shows" className="flex flex-col items-stretch gap-0.5 p-3 pr-1">
      {modes.map(([name, label, title]) => (
        <View
          key={name}
          label={label}
          title={title}
          active={mode === name}
          disabled={name === 'share' && !selected}
          onPick={() => view.setState({ mode: name })}
        />
      ))}
      <hr className="my-1.5 border-t hairline" />
      <View
        label="Set view"
        title="Stage, figures, lights and camera as objects, in real time (V)"
        active={set || along !== undefined}
        onPick={() => view.setState(along === undefined ? { set: !set } : { set: false, along: undefined })}
      />
      <View label="Clay" title="Everything in grey clay" active={clay} onPick={() => view.setState({ clay: !clay })} />
      <View label="From afar" title="As small as from across the room" active={afar} onPick={() => view.setState({ afar: !afar })} />
      <View
        label="Before"
        title={hasProof ? 'The last proof beside now; drag the line' : 'Keep a proof first (P)'}
        active={wipe !== undefined}
        disabled={!hasProof}
        onPick={() => view.setState({ wipe: wipe === undefined ? 0.5 : undefined })}
      />
      {said && <span className="mt-2 rounded bg-warning px-2 py-0.5 text-2xs font-semibold text-black">{said}</span>}
    </nav>
  );
}
