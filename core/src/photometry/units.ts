/** Factor of a number of stops: one stop is a factor of two. */
export const stopsToFactor = (stops: number): number => 2 ** stops;
/** Stops of a factor. */
export const factorToStops = (factor: number): number => Math.log2(factor);
/** Nearest third of a stop. */
export const snapThird = (stops: number): number => Math.round(stops * 3) / 3;

/**
 * A level in stops as the trade writes it, in thirds: "+1⅓", "−⅔", "0".
 * @example formatStops(-2/3) // "−⅔"
 */
export function formatStops(stops: number): string {
  const thirds = Math.round(stops * 3);
  if (Math.abs(stops * 3 - thirds) > 0.02) return (stops < 0 ? '−' : '+') + Math.abs(stops).toFixed(2);
  if (thirds === 0) return '0';
  const whole = Math.floor(Math.abs(thirds) / 3);
  return (thirds < 0 ? '−' : '+') + (whole || '') + ['', '⅓', '⅔'][Math.abs(thirds) % 3];
}

/** Luminous flux (lm) of a one-sided Lambertian panel: Φ = π L A, from luminance (cd/m²) and area (m²). */
export const panelFlux = (luminance: number, area: number): number => Math.PI * luminance * area;
/** Luminance (cd/m²) of a one-sided Lambertian panel of a given flux (lm) and area (m²). */
export const panelLuminance = (flux: number, area: number): number => flux / (Math.PI * area);

/**
 * What the camera makes of luminance: display value 1 stands at 1.2 · 2^EV100 cd/m².
 * ISO 12232 saturation speed with q = 0.65: L_max = 78/(q·S) · N²/t, and N²/t = 2^EV100 at S = 100.
 */
export const exposureFactor = (ev100: number): number => 1 / (1.2 * 2 ** ev100);
