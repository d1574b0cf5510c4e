import { Equator, Horizon, Observer, Body } from 'astronomy-engine';

/** A place on the earth in degrees (north and east positive) and a moment. */
export interface PlaceAndTime {
  latitude: number;
  longitude: number;
  /** ISO 8601, with its zone. */
  at: string;
}

/**
 * Where the sun stands: azimuth from true north clockwise and apparent elevation (refraction of normal air in it), degrees.
 * @throws RangeError when the place or the moment cannot be.
 */
export function sunPosition({ latitude, longitude, at }: PlaceAndTime): { azimuth: number; elevation: number } {
  if (!(Math.abs(latitude) <= 90)) throw new RangeError('Latitude runs from −90° to 90°.');
  if (!(Math.abs(longitude) <= 180)) throw new RangeError('Longitude runs from −180° to 180°.');
  const when = new Date(at);
  if (Number.isNaN(when.getTime())) throw new RangeError(`“${at}” is no moment; write it as 2026-06-21T18:30Z.`);
  const observer = new Observer(latitude, longitude, 0);
  const { ra, dec } = Equator(Body.Sun, when, observer, true, true);
  const { azimuth, altitude } = Horizon(when, observer, ra, dec, 'normal');
  return { azimuth, elevation: altitude };
}
