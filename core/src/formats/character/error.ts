/** Why a file could not be imported. */
export type ImportErrorCode = 'not-glb' | 'version' | 'truncated' | 'broken' | 'unsupported' | 'no-triangles' | 'bad-mesh' | 'too-large';

/** A file that could not be imported; the message names the file's part and the reason. */
export class ImportError extends Error {
  readonly code: ImportErrorCode;
  constructor(code: ImportErrorCode, message: string) {
    super(message);
    this.name = 'ImportError';
    this.code = code;
  }
}
