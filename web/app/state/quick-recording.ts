import { inject, Injectable, signal } from '@angular/core';
import { firstValueFrom, type Subscription } from 'rxjs';
import { saveFile } from '../sheet/save-file';
import { FilmMaker } from './film-maker';
import { PictureState } from './picture-state';

/** Of the film; the working picture is brought to it. */
const SIZE = { width: 1280, height: 720 };
const TYPES = { mp4: 'video/mp4', webm: 'video/webm' } as const;

/** Records the working picture while it moves, in the time that it takes: each picture stands until the next one is drawn. */
@Injectable({ providedIn: 'root' })
export class QuickRecording {
  private readonly picture = inject(PictureState);
  /** What was made last, or why nothing was. */
  readonly said = signal('');
  private drawing: Subscription | undefined;
  private film: FilmMaker | undefined;
  private began = 0;
  private last: number | undefined;
  private pictures = 0;
  private adding: Promise<void> = Promise.resolve();

  /** Makes ready. False: the browser makes no films. */
  async begin(): Promise<boolean> {
    this.abandon();
    this.said.set('');
    this.film = await FilmMaker.begin(SIZE.width, SIZE.height);
    if (!this.film) {
      this.said.set('This browser encodes no films; print the walk instead.');
      return false;
    }
    this.last = undefined;
    this.pictures = 0;
    return true;
  }

  /** From now on, what is drawn is taken. */
  start(): void {
    this.drawing ??= this.picture.drawn$.subscribe((canvas) => {
      const now = performance.now() / 1000;
      if (this.last === undefined) this.began = now;
      else this.take(now);
      this.film!.draw(canvas);
      this.last = now;
    });
  }

  /** Ends the film and hands it over. A walk can be over before its first picture is drawn, which is waited for. */
  async end(name: string): Promise<void> {
    const { film } = this;
    if (!film) return;
    this.abandon();
    if (this.last === undefined) {
      film.draw(await firstValueFrom(this.picture.drawn$));
      if (this.film) return;
      this.began = this.last = performance.now() / 1000;
    }
    const now = performance.now() / 1000;
    this.takeWith(film, now);
    await this.adding;
    const { ending, bytes } = await film.end();
    saveFile(`${name}.${ending}`, TYPES[ending], bytes);
    const seconds = now - this.began;
    this.said.set(`${ending === 'mp4' ? 'MP4' : 'WebM'} by this browser: ${seconds.toFixed(1)} s, ${(this.pictures / seconds).toFixed(1)} pictures a second.`); // prettier-ignore
  }

  /** What was taken so far is dropped. */
  abandon(): void {
    this.drawing?.unsubscribe();
    this.drawing = undefined;
    this.film = undefined;
  }

  private take(now: number): void {
    this.takeWith(this.film!, now);
  }

  /** The picture that has been standing until now. */
  private takeWith(film: FilmMaker, now: number): void {
    const at = this.last! - this.began;
    this.pictures++;
    this.adding = film.add(at, Math.max(1e-3, now - this.last!));
  }
}
