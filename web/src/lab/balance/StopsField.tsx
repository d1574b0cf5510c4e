import { formatStops, type Limits } from '@plinket/core';
import { NumberField } from '../../parts/NumberField.tsx';

/** Stops more or less than as rendered, in thirds. */
export const StopsField = (props: { label: string; value: number; limits: Limits; onChange(v: number, gesture?: string): void }) => (
  <NumberField {...props} unit="st" step={1 / 3} digits={2} format={formatStops} />
);
