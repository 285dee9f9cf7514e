import { inject, Injectable, signal } from '@angular/core';
import { PictureState } from './picture-state';

/** Where the browser can keep a window over all others (Document Picture-in-Picture, WICG). */
interface OnTop {
  requestWindow(size: { width: number; height: number }): Promise<Window>;
}
const onTop = (): OnTop | undefined => (globalThis as { documentPictureInPicture?: OnTop }).documentPictureInPicture;

const WIDTH = 960;
const STYLE =
  'body{margin:0;background:#777;height:100vh;display:flex;align-items:center;justify-content:center}canvas{max-width:100%;max-height:100%}';

/** The picture once more in a window of its own: for a second screen, or over all other windows. It shows whatever is drawn. */
@Injectable({ providedIn: 'root' })
export class PictureWindow {
  private readonly picture = inject(PictureState);
  private shown: { window: Window; close: () => void } | undefined;
  readonly canBeOnTop = onTop() !== undefined;
  readonly isOpen = signal(false);
  /** Why there is none. */
  readonly fault = signal('');

  async open(staysOnTop: boolean): Promise<void> {
    this.close();
    this.fault.set('');
    const { width, height } = this.picture.frame$.value;
    const size = { width: WIDTH, height: Math.round((WIDTH * height) / width) };
    const window = staysOnTop
      ? await onTop()
          ?.requestWindow(size)
          .catch(() => null)
      : open('', 'diaphane-picture', `popup,width=${String(size.width)},height=${String(size.height)}`);
    if (window) this.fill(window);
    else this.fault.set('The browser opened no window; allow this page to open one.');
  }

  close(): void {
    this.shown?.close();
  }

  private fill(window: Window): void {
    const { document } = window;
    document.title = 'The picture';
    document.head.replaceChildren(Object.assign(document.createElement('style'), { textContent: STYLE }));
    const canvas = document.createElement('canvas');
    canvas.setAttribute('aria-label', 'The picture');
    canvas.addEventListener('dblclick', () => void (document.fullscreenElement ? document.exitFullscreen() : canvas.requestFullscreen()));
    document.body.replaceChildren(canvas);
    const show = (from: HTMLCanvasElement | HTMLImageElement) => {
      if (canvas.width !== from.width || canvas.height !== from.height) [canvas.width, canvas.height] = [from.width, from.height];
      canvas.getContext('2d')!.drawImage(from, 0, 0);
    };
    const drawing = this.picture.drawn$.subscribe(show);
    // What is seen now, until something else is drawn.
    const now = new Image();
    now.addEventListener('load', () => {
      show(now);
    });
    now.src = this.picture.refined() ?? '';
    const end = () => {
      drawing.unsubscribe();
      removeEventListener('pagehide', end);
      if (this.shown?.window !== window) return;
      this.shown = undefined;
      this.isOpen.set(false);
      window.close();
    };
    window.addEventListener('pagehide', end);
    addEventListener('pagehide', end);
    this.shown = { window, close: end };
    this.isOpen.set(true);
  }
}
