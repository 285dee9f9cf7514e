declare module 'fontkit' {
  export interface Font {
    hasGlyphForCodePoint(code: number): boolean;
  }
  export function openSync(file: string): Font;
}
