import { guessScale, inPercent, type Mending, type Stance, type StanceGuess, LIMITS } from '@plinket/core';
import { useState } from 'react';
import type { AssetReport } from '../engine/messages.ts';
import { CheckField, SelectField } from '../parts/Fields.tsx';
import { NumberField } from '../parts/NumberField.tsx';

const metres = (v: number): string => (v >= 10 ? v.toFixed(1) : v.toFixed(2));
const stands = ({ up, faces, by, sure }: StanceGuess): string =>
  `${up === 'y' ? 'upright' : 'with Z up'}, looks ${SIDES[faces]}: ${REASONS[by]}, ${inPercent(sure)} sure`;

/** Where a character goes: in place of the first, beside the others, or into the first as its newer version. */
export type Keeping = 'place' | 'beside' | 'newer';

interface Props {
  /** What was found in the file as it came, and as it is mended now. */
  original: AssetReport;
  report: AssetReport;
  mending: Mending;
  /** How far mending has come, 0 to 1, while it goes on. */
  share: number | undefined;
  mend(next: Mending): void;
  scale: number;
  setScale(v: number): void;
  keep(how: Keeping): void;
  others: number;
  newer: string | undefined;
  cancel(): void;
}

/** What was found in a file, what looks wrong with it, and what can be mended before it is kept. */
export function ImportReport({ original, report, mending, share, mend, scale, setScale, keep, others, newer, cancel }: Props) {
  const busy = share !== undefined;
  const { width, height, depth } = report.size;
  const guesses = guessScale(height, width, depth);
  const rows: [string, string][] = [
    ['Size', `${metres(width * scale)} m wide, ${metres(height * scale)} m tall, ${metres(depth * scale)} m deep`],
    ['Triangles', report.triangles.toLocaleString('en')],
    ['Stands', stands(report.stance)],
    [
      'Head',
      report.head.source === 'file'
        ? `from ${report.landmarks} landmarks in the file`
        : `proposed from the mesh, ${inPercent(report.headSure)} sure; it can be corrected afterwards`,
    ],
  ];
  return (
    <div data-testid="import-report" aria-busy={busy}>
      <h2 className="mb-2 text-base font-semibold">{report.name}</h2>
      <dl className="mb-2">
        {rows.map(([k, v]) => (
          <div key={k} className="flex gap-3 border-b hairline py-0.5">
            <dt className="quiet w-20 shrink-0">{k}</dt>
            <dd>{v}</dd>
          </div>
        ))}
      </dl>
      {(report.warnings.length > 0 || report.notes?.length) && (
        <ul className="mb-2 max-h-24 overflow-auto border-l-2 border-warning pl-3">
          {report.warnings.map((w) => (
            <li key={w.message}>{w.message}</li>
          ))}
          {report.notes?.map((n) => (
            <li key={n} className="quiet">
              {n}
            </li>
          ))}
        </ul>
      )}
      <StanceHint guess={original.stance} stance={mending.stance} busy={busy} take={(stance) => mend({ ...mending, stance })} />
      {guesses.length > 0 && (
        <p className="mb-2 flex flex-wrap items-center gap-2">
          <span className="text-warning">{metres(height)} m tall. This looks like</span>
          {guesses.slice(0, 3).map((g) => (
            <button
              key={g.unit}
              className={`btn btn-xs ${scale === g.factor ? 'btn-warning text-black' : ''}`}
              data-testid="scale-guess"
              onClick={() => setScale(g.factor)}
            >
              {g.unit}: × {g.factor}, {metres(g.height)} m
            </button>
          ))}
        </p>
      )}
      <div className="mb-3 grid grid-cols-[auto_minmax(0,1fr)] gap-x-5">
        <div>
          <HeightMark height={height * scale} />
          <NumberField label="Scale" unit="×" value={scale} step={0.01} digits={4} limits={LIMITS.scale} onChange={setScale} />
        </div>
        <MendFields mending={mending} busy={busy} mend={mend} parts={original.parts.map((p) => p.name)} />
      </div>
      <div className="flex items-center justify-end gap-2">
        {busy && (
          <span className="quiet mr-auto flex items-center gap-2" role="status">
            mending … <progress className="progress h-1.5 w-24" value={share} max={1} aria-label="How far mending has come" />
          </span>
        )}
        <button className="btn btn-sm" onClick={cancel}>
          Leave it
        </button>
        {others > 0 && (
          <button className="btn btn-sm" disabled={busy} onClick={() => keep('beside')} data-testid="import-beside">
            Beside the others
          </button>
        )}
        {newer !== undefined && (
          <button
            className="btn btn-sm"
            disabled={busy}
            title="Place, size, materials, pose and a picked head stay"
            onClick={() => keep('newer')}
            data-testid="import-newer"
          >
            As a newer version
          </button>
        )}
        <button className="btn btn-primary btn-sm" autoFocus disabled={busy} onClick={() => keep('place')} data-testid="import-keep">
          {others > 0 ? 'In place of the first' : 'Put it on the stage'}
        </button>
      </div>
    </div>
  );
}

const SIDES: Record<Stance['faces'], string> = {
  '+z': 'towards the camera',
  '-z': 'away from the camera',
  '+x': 'to the picture’s right',
  '-x': 'to the picture’s left',
};

/** What a guess goes by. */
const REASONS: Record<StanceGuess['by'], string> = {
  landmarks: 'its file says so',
  face: 'by its face',
  feet: 'by its feet',
  format: 'files of this kind usually are so',
};

/** What the mesh says of how it stands, and one click to mend it. */
function StanceHint({ guess, stance, busy, take }: { guess: StanceGuess; stance: Stance; busy: boolean; take(s: Stance): void }) {
  if (guess.up === stance.up && guess.faces === stance.faces) return null;
  const wrong = [
    ...(guess.up === 'z' && stance.up !== 'z' ? ['it lies on its back: Z is up in this file'] : []),
    ...(guess.faces !== '+z' && stance.faces !== guess.faces ? [`it looks ${SIDES[guess.faces]}`] : []),
  ];
  if (!wrong.length) return null;
  return (
    <p className="mb-2 flex flex-wrap items-center gap-2">
      <span className="text-warning">
        As it seems, {wrong.join(', and ')} ({REASONS[guess.by]}, {inPercent(guess.sure)} sure).
      </span>
      <button className="btn btn-xs" disabled={busy} data-testid="stance-guess" onClick={() => take({ up: guess.up, faces: guess.faces })}>
        {guess.up === 'z' ? 'Stand it up' : 'Turn it to the front'}
      </button>
    </p>
  );
}

const EDGES: [string, string][] = [
  ['', 'as in the file'],
  ['180', 'all smooth'],
  ['60', 'smooth up to 60°'],
  ['30', 'smooth up to 30°'],
  ['0', 'facets'],
];

function MendFields({ mending, busy, mend, parts }: { mending: Mending; busy: boolean; mend(m: Mending): void; parts: string[] }) {
  const [open, setOpen] = useState(false);
  const { stance, without } = mending;
  const { crease: _, ...uncreased } = mending;
  const toggle = (name: string) =>
    mend({ ...mending, without: without.includes(name) ? without.filter((n) => n !== name) : [...without, name] });
  const names = [...new Set(parts)];
  return (
    <fieldset disabled={busy} className="min-w-0">
      <SelectField
        label="Up in the file"
        value={stance.up}
        options={[
          ['y', '+Y'],
          ['z', '+Z'],
        ]}
        testId="mend-up"
        onChange={(up) => mend({ ...mending, stance: { ...stance, up } })}
      />
      <SelectField
        label="Looks"
        value={stance.faces}
        options={(Object.keys(SIDES) as Stance['faces'][]).map((f) => [f, SIDES[f]] as const)}
        testId="mend-faces"
        onChange={(faces) => mend({ ...mending, stance: { ...stance, faces } })}
      />
      <SelectField
        label="Edges"
        value={mending.crease === undefined ? '' : String(mending.crease)}
        options={EDGES}
        testId="mend-edges"
        onChange={(v) => mend(v === '' ? uncreased : { ...mending, crease: Number(v) })}
      />
      <SelectField
        label="Subdivide"
        value={String(mending.subdivide)}
        options={[
          ['0', 'not'],
          ['1', 'once'],
          ['2', 'twice'],
        ]}
        testId="mend-subdivide"
        onChange={(v) => mend({ ...mending, subdivide: Number(v) as Mending['subdivide'] })}
      />
      <CheckField
        label="Turn parts that are inside out"
        value={mending.winding}
        testId="mend-winding"
        onChange={(winding) => mend({ ...mending, winding })}
      />
      <button
        type="button"
        className="quiet mt-1 hover:text-base-content"
        aria-expanded={open}
        data-testid="mend-parts"
        onClick={() => setOpen(!open)}
      >
        {names.length - without.length} of {names.length} parts {open ? '▴' : '▾'}
      </button>
      {open && (
        <ul className="max-h-28 overflow-auto">
          {names.map((name) => (
            <li key={name}>
              <label className="flex items-center gap-2">
                <input type="checkbox" className="checkbox checkbox-xs" checked={!without.includes(name)} onChange={() => toggle(name)} />
                <span className="truncate">{name}</span>
              </label>
            </li>
          ))}
        </ul>
      )}
    </fieldset>
  );
}

/** Height of a grown person, metres; common practice, no source. */
const PERSON = 1.7;

/** The character's height beside a person's: scale is seen at a glance. */
function HeightMark({ height }: { height: number }) {
  const most = Math.max(PERSON, Math.min(height, 12)) * 1.08;
  const y = (v: number) => 92 - (Math.min(v, most) / most) * 88;
  const k = (92 - y(PERSON)) / 100;
  return (
    <svg viewBox="0 0 220 100" className="mb-2 h-24" role="img" aria-label={`${metres(height)} m beside a person of ${PERSON} m`}>
      <line x1={4} x2={216} y1={92} y2={92} stroke="currentColor" strokeOpacity={0.4} />
      <g transform={`translate(52 92) scale(${k})`} fill="currentColor" fillOpacity={0.35}>
        <circle cx={0} cy={-93} r={7} />
        <path d="M-13 -84 Q0 -88 13 -84 L15 -46 H10 L8 0 H1 V-42 H-1 V0 H-8 L-10 -46 H-15Z" />
      </g>
      <rect x={110} y={y(height)} width={26} height={Math.max(1, 92 - y(height))} fill="none" stroke="currentColor" />
      <text x={144} y={y(height) + 8} fontSize={9} fill="currentColor">
        {metres(height)} m{height > 12 ? ' and more' : ''}
      </text>
      <text x={70} y={y(PERSON) + 8} fontSize={9} fill="currentColor" fillOpacity={0.6}>
        1.7 m
      </text>
    </svg>
  );
}
