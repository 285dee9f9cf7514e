import { BehaviorSubject, Subject } from 'rxjs';
import type { PhotoSettings } from '../../../core/photo/make-finish-maps';
import type { FromPhotoWorker, MadeMaps, ToPhotoWorker } from './photo-messages';

/** The page's end of the photograph worker. */
export class PhotoMaker {
  private readonly worker = new Worker(new URL('./photo.worker', import.meta.url), { type: 'module' });
  private number = 0;
  private busy = false;
  private waiting: { settings: PhotoSettings; size: number } | undefined;
  /** What is being done now; empty: nothing. */
  readonly step$ = new BehaviorSubject('');
  readonly made$ = new Subject<MadeMaps | undefined>();
  readonly faults$ = new Subject<string>();

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<FromPhotoWorker>) => {
      if (data.type === 'step') {
        this.step$.next(data.words);
        return;
      }
      this.busy = false;
      if (this.waiting) this.begin(this.waiting);
      else {
        this.step$.next('');
        if (data.type === 'made') this.made$.next(data.made);
        else this.faults$.next(data.message);
      }
    };
  }

  show({ data, width, height }: ImageData): void {
    this.post({ type: 'photo', rgba: data, width, height });
  }

  /** Makes maps; of several asks in a row only the last one counts. */
  make(settings: PhotoSettings, size: number): void {
    if (this.busy) this.waiting = { settings, size };
    else this.begin({ settings, size });
  }

  close(): void {
    this.worker.terminate();
  }

  private begin({ settings, size }: { settings: PhotoSettings; size: number }): void {
    this.waiting = undefined;
    this.busy = true;
    this.post({ type: 'make', number: ++this.number, settings, size });
  }

  private post(message: ToPhotoWorker): void {
    this.worker.postMessage(message);
  }
}
