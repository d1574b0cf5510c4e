/**
 * What a file may ask for at most: looked at in its header, before memory is taken, and said in the refusal. docs/files.md has this table in words.
 */
export const FILE_LIMITS = {
  /** Pixels of a picture of light (.hdr, .exr): 11 585 × 5792, 805 MB as floats. */
  radiancePixels: 2 ** 26,
  /** Pixels of a PNG or JPEG. */
  picturePixels: 2 ** 26,
  /** Pictures in one OpenEXR file. */
  exrParts: 1000,
  /** Elements of all accessors of a glTF together: ten times what the largest character needs. */
  gltfElements: 100_000_000,
  /** Values that a compressed glTF may unfold into: small files can promise enormous ones. */
  gltfUnfolded: 60_000_000,
  /** Nodes of a glTF, and how deep they may hang below one another. */
  gltfNodes: 100_000,
  gltfDepth: 5000,
  /** Parts of a character: each is an object of the scene that is named and lit by itself. */
  parts: 20_000,
  /** Entries of one element of a PLY, and values of one of its lists. */
  plyEntries: 100_000_000,
  plyList: 65_535,
  /** Entries along one side of a .cube, and its largest value: what shows is 0 … 1, and tables that stretch it stay near. */
  cubeSize: 129,
  cubeValue: 1000,
  /** Angles one way of a photometric profile, and candela: a lighthouse has some millions. */
  profileAngles: 2000,
  candela: 1e9,
  /** Prims of a .usda. */
  usdPrims: 100_000,
  /** Bytes of a shot list. */
  shotListBytes: 4 * 1024 * 1024,
  /** Levels and members of a setup, kit or other document in JSON: one with 200 lights has some 15 000 members, ten levels deep. */
  jsonDepth: 32,
  jsonMembers: 50_000,
} as const;
