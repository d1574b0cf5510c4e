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

/** What else goes wrong within a reader, which it did not look for: JSON of another shape, lengths that do not fit together. */
export const fitsNot = (error: unknown): string =>
  `The file does not fit together: ${error instanceof Error ? error.message : String(error)}`;

/** Does a reader's work; whatever escapes it is its refusal. @throws ImportError */
export async function orRefused<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw error instanceof ImportError ? error : new ImportError('broken', fitsNot(error));
  }
}
