import { toleranceSchema, type Tolerance } from '@plinket/core';
import { toast } from 'sonner';
import { KeptText } from '../parts/KeptText.tsx';

const FIELDS: [keyof Tolerance, string, string][] = [
  ['direction', 'Key comes from elsewhere', '°'],
  ['stops', 'Ratio, brightness of the face', 'st'],
  ['colour', 'Colour of the face', 'ΔE'],
];

/** What is no jump yet, as the sequence allows it. */
export function Tolerances({ of, change }: { of: Tolerance; change(to: Tolerance): void }) {
  const typed = (key: keyof Tolerance, label: string, text: string) => {
    const next = toleranceSchema.safeParse({ ...of, [key]: Number(text.replace(',', '.')) });
    if (next.success) change(next.data);
    else toast.error(`${label}: ${next.error.issues[0]!.message}`);
  };
  return (
    <details className="dropdown dropdown-end">
      <summary className="btn btn-ghost btn-xs" title="From when on a difference between neighbours is a jump">
        jumps from {of.direction}°, {of.stops} st, ΔE {of.colour}
      </summary>
      <div className="dropdown-content z-20 w-64 rounded border hairline bg-white p-3 shadow">
        {FIELDS.map(([key, label, unit]) => (
          <label key={key} className="flex h-7 items-center gap-2 border-b hairline">
            <span className="quiet min-w-0 flex-1 truncate">{label}</span>
            <KeptText
              value={String(of[key])}
              name={`Jump: ${label}`}
              most={8}
              needed
              className="w-16 border-transparent text-right font-semibold"
              change={(text) => typed(key, label, text)}
            />
            <span className="quiet w-6">{unit}</span>
          </label>
        ))}
      </div>
    </details>
  );
}
