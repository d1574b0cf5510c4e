// One table of what may be set how far: the schema, fields, drags, keys and the shelf all read it.

export type Limits = readonly [min: number, max: number];

/** Least and greatest of what an artist can set; lengths in metres, angles in degrees, unless it says otherwise. */
export const LIMITS = {
  /** Around the vertical, or about an axis of its own. */
  turn: [-180, 180],
  elevation: [-90, 90],
  /** From the head to a light or flag, from a camera to what it looks at. */
  distance: [0.05, 200],
  target: [-8, 6],
  /** Across a source or a flag. */
  size: [0.0005, 50],
  /** A light's level, stops. */
  stops: [-20, 20],
  kelvin: [1000, 25000],
  /** What the camera takes for white, kelvin. */
  white: [1700, 25000],
  /** Thousandths of CIE 1960 u v. */
  tint: [-50, 50],
  /** Half stops. */
  scrims: [0, 8],
  /** Factors on a light's shares. */
  share: [0, 4],
  /** Shares of one. */
  unit: [0, 1],
  output: [1e-6, 1e9],
  /** Lumens a watt; 683 is all that there can be. */
  efficacy: [1, 683],
  grid: [5, 180],
  beam: [2, 170],
  range: [0, 200],
  goboDistance: [0.02, 50],
  goboWidth: [0.01, 50],
  sunHeight: [-2, 90],
  sunDisk: [0.05, 60],
  turbidity: [1, 10],
  latitude: [-90, 90],
  /** A subject's size against its file. */
  scale: [1e-4, 1000],
  /** Chin to crown. */
  headHeight: [1e-3, 1000],
  /** Seconds of a clip. */
  seconds: [0, 36000],
  /** Free path of light in a material, millimetres. */
  freePath: [0, 100],
  /** Light of a material's own, cd/m². */
  emission: [0, 1e7],
  ballRadius: [0.005, 20],
  thingTurn: [-360, 360],
  thingWidth: [0.02, 50],
  thingHeight: [0.005, 20],
  tread: [0.02, 20],
  rise: [0.005, 5],
  steps: [1, 40],
  stageWidth: [0.3, 200],
  stageFront: [0, 200],
  stageHeight: [0.3, 100],
  fillet: [0, 50],
  plateReach: [0.05, 3],
  /** Frames of one turn, and of a hold. */
  turnFrames: [1, 10_000],
  holdFrames: [0, 10_000],
  /** Share of the frame. */
  safeMargin: [0, 0.4],
  /** Millimetres. */
  focal: [4, 2000],
  sensor: [1, 200],
  aspect: [0.2, 5],
  ev: [-10, 24],
  fNumber: [0, 64],
  focus: [0.02, 1000],
  /** Extinction, 1/m. */
  haze: [0, 10],
  /** Henyey and Greenstein's g. */
  anisotropy: [-0.95, 0.95],
  /** Stops per stop. */
  contrast: [0.4, 2.5],
  /** A coordinate in fields; documents may hold any. */
  coordinate: [-1000, 1000],
} as const satisfies Record<string, Limits>;

/** Limits in another unit, as fields show it: 100 for centimetres. */
export const limitsTimes = ([min, max]: Limits, factor: number): Limits => [min * factor, max * factor];
