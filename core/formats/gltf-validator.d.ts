/** The standard's own validator ships no types. */
declare module 'gltf-validator' {
  interface Report {
    issues: { numErrors: number; numWarnings: number; messages: { code: string; message: string; pointer?: string; severity: number }[] };
    info: { totalTriangleCount: number; materialCount: number; drawCallCount: number };
  }
  export function validateBytes(bytes: Uint8Array): Promise<Report>;
}
