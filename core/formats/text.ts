import { ModelFileError } from './model-file';

/** A text of more bytes would not fit into one string. */
export const MOST_TEXT_BYTES = 500_000_000;

/** Throws ModelFileError, in words, where a text is larger than can be read. */
export function checkTextSize({ byteLength }: Uint8Array, fileName: string): void {
  if (byteLength <= MOST_TEXT_BYTES) return;
  const [is, most] = [byteLength, MOST_TEXT_BYTES].map((bytes) => String(Math.floor(bytes / 1e6)));
  throw new ModelFileError(
    `${fileName} holds ${is!} MB of text; up to ${most!} MB are read. Split the model, or use a format that is not text, as GLB.`,
  );
}

/** Text of a file in the encoding that it gives away: UTF-16 by its mark or its zeros, UTF-8, or else Latin 1 in Windows' form. Throws ModelFileError. */
export function textOf(bytes: Uint8Array, fileName: string): string {
  checkTextSize(bytes, fileName);
  const [a, b, c, d] = bytes;
  if ((a === 0xfe && b === 0xff) || (a === 0 && c === 0 && b !== 0 && d !== 0)) return new TextDecoder('utf-16be').decode(bytes);
  if ((a === 0xff && b === 0xfe) || (b === 0 && d === 0 && a !== 0 && c !== 0)) return new TextDecoder('utf-16le').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
