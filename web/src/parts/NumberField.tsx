import { clamp, LIMITS, QuantityError, typed, type Limits } from '@plinket/core';
import { toast } from 'sonner';
import { alike, hearEscape, useGestures } from './gestures.ts';
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { flushSync } from 'react-dom';

interface Props {
  label: string;
  value: number;
  unit: string;
  /** Size of one step; Shift makes it five. */
  step: number;
  /** From the table of limits, in the unit that is shown. */
  limits: Limits;
  digits?: number;
  /** Shown instead of the number, for stops in thirds. */
  format?: (v: number) => string;
  /** `gesture` names a drag, so that it is one step of undo. */
  onChange: (value: number, gesture?: string) => void;
  testId?: string;
  /** Takes what was typed in its own way; answers whether it did. */
  onTyped?: (text: string) => boolean;
}

/** What was typed, without the sign that asks for all lights in hand alike. */
const meant = (said: string): string => said.trim().replace(/^=\s*/, '');

/** A number that can be typed (with units, fractions, sums), dragged by its label and stepped with the arrow keys. */
export function NumberField({ label, value, unit, step, limits, digits = 0, format, onChange, testId, onTyped }: Props) {
  const newGesture = useGestures();
  const [text, show] = useState<string>();
  // Enter commits and then blurs: what was committed must not be taken a second time
  const pending = useRef<string>(undefined);
  const untouched = useRef<string>(undefined);
  const setText = (now: string | undefined) => {
    pending.current = now;
    show(now);
  };
  const [wrong, setWrong] = useState<string>();
  const drag = useRef<{ x: number; from: number; name: string; deaf(): void }>(undefined);
  const shown = text ?? (format ? format(value) : value.toFixed(digits).replace('-', '−'));

  const settle = (v: number, gesture?: string) => onChange(clamp(Number((Math.round(v / step) * step).toFixed(6)), limits), gesture);
  const commit = () => {
    const said = pending.current;
    if (said === undefined) return;
    setText(undefined);
    setWrong(undefined);
    // a field that was only looked at keeps its value, digits and all
    if (meant(said) === '' || said === untouched.current || onTyped?.(meant(said))) return;
    try {
      const all = said.trim().startsWith('=');
      onChange(clamp(typed(meant(said), value, unit), limits), all ? alike(newGesture()) : undefined);
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      toast.error(`${label}: ${error.message}`);
    }
  };
  /** Says while typing whether the text means something. */
  const look = (now: string) => {
    setText(now);
    try {
      if (meant(now) !== '' && !onTyped) typed(meant(now), value, unit);
      setWrong(undefined);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.key === 'Enter') {
      commit();
      (e.target as HTMLInputElement).blur();
    } else if (e.key === 'Escape') {
      setText(undefined);
      setWrong(undefined);
      (e.target as HTMLInputElement).blur();
    } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault();
      settle(value + (e.key === 'ArrowUp' ? 1 : -1) * step * (e.shiftKey ? 5 : 1), `step-${label}`);
    }
    e.stopPropagation();
  };
  const onPointerDown = (e: PointerEvent<HTMLElement>) => {
    const name = newGesture();
    const deaf = hearEscape(() => {
      stop();
      onChange(value, name);
    });
    drag.current = { x: e.clientX, from: value, name, deaf };
    e.currentTarget.setPointerCapture(e.pointerId);
  };
  const stop = () => {
    drag.current?.deaf();
    drag.current = undefined;
  };
  const onPointerMove = (e: PointerEvent) => {
    const d = drag.current;
    if (d) settle(d.from + Math.round((e.clientX - d.x) / 4) * step * (e.shiftKey ? 5 : 1), d.name);
  };
  return (
    <label className="flex h-6 items-center gap-2 border-b hairline">
      <span
        className="quiet min-w-0 flex-1 cursor-ew-resize touch-none truncate select-none"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={stop}
        onPointerCancel={stop}
      >
        {label}
      </span>
      <input
        className={`w-14 rounded-sm bg-transparent px-1 text-right font-semibold hover:bg-base-300 focus:bg-base-300 ${wrong ? 'text-error' : ''}`}
        aria-invalid={wrong !== undefined}
        title={wrong}
        aria-label={unit === '' ? label : `${label}, ${unit}`}
        data-testid={testId}
        value={shown}
        onFocus={(e) => {
          untouched.current = format ? String(Number(value.toFixed(3))) : value.toFixed(digits).replace('-', '−');
          // at once: what is typed in the same moment takes the place of all of it
          flushSync(() => setText(untouched.current));
          e.target.select();
          // a click puts the caret somewhere afterwards; who has typed meanwhile, or left, is not called back
          requestAnimationFrame(() => document.activeElement === e.target && pending.current === untouched.current && e.target.select());
        }}
        onChange={(e) => look(e.target.value)}
        onBlur={commit}
        onKeyDown={onKeyDown}
      />
      {unit !== '' && <span className="quiet w-8 text-2xs whitespace-nowrap">{unit}</span>}
    </label>
  );
}

/** One coordinate of a place on the set, metres. */
export function PlaceField(props: { label: string; value: number; onChange(v: number, gesture?: string): void; testId?: string }) {
  return <NumberField unit="m" step={0.05} digits={2} limits={LIMITS.coordinate} {...props} />;
}
