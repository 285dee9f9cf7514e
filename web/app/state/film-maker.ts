import type { CanvasSource, Output } from 'mediabunny';

/** Films made by the browser itself, through WebCodecs. Loaded when the first one is asked for. */

/** In the order of preference, with what holds it. */
const CODECS = [
  ['avc', 'mp4'],
  ['vp9', 'webm'],
  ['vp8', 'webm'],
] as const;

export interface MadeFilm {
  ending: 'mp4' | 'webm';
  bytes: Uint8Array<ArrayBuffer>;
}

/** Pictures one after the other become a film. */
export class FilmMaker {
  private readonly canvas: OffscreenCanvas;
  private readonly context: OffscreenCanvasRenderingContext2D;
  private source!: CanvasSource;
  private output!: Output;
  private ending: MadeFilm['ending'] = 'mp4';
  private bytes: () => ArrayBuffer | null = () => null;

  private constructor(width: number, height: number) {
    this.canvas = new OffscreenCanvas(width, height);
    this.context = this.canvas.getContext('2d')!;
  }

  /** Undefined: this browser encodes no film of that size. Sides are even: colour is halved each way. */
  static async begin(wantedWidth: number, wantedHeight: number): Promise<FilmMaker | undefined> {
    const { BufferTarget, canEncodeVideo, CanvasSource, Mp4OutputFormat, Output, QUALITY_HIGH, WebMOutputFormat } =
      await import('mediabunny');
    const [width, height] = [wantedWidth + (wantedWidth % 2), wantedHeight + (wantedHeight % 2)];
    for (const [codec, ending] of CODECS) {
      if (!(await canEncodeVideo(codec, { width, height, bitrate: QUALITY_HIGH }))) continue;
      const film = new FilmMaker(width, height);
      const target = new BufferTarget();
      film.ending = ending;
      film.bytes = () => target.buffer;
      film.output = new Output({ format: ending === 'mp4' ? new Mp4OutputFormat() : new WebMOutputFormat(), target });
      film.source = new CanvasSource(film.canvas, { codec, quality: QUALITY_HIGH });
      film.output.addVideoTrack(film.source);
      await film.output.start();
      return film;
    }
    return undefined;
  }

  /** A picture that is shown from a moment on, for so long, seconds; it is drawn at the film's size. */
  draw(picture: CanvasImageSource): void {
    this.context.drawImage(picture, 0, 0, this.canvas.width, this.canvas.height);
  }

  /** Takes in what has been drawn last; resolves when there is room for more. */
  add(atS: number, seconds: number): Promise<void> {
    return this.source.add(atS, seconds);
  }

  async end(): Promise<MadeFilm> {
    await this.output.finalize();
    return { ending: this.ending, bytes: new Uint8Array(this.bytes()!) };
  }
}
