import type { RefineView, ToRefiner } from './refine-messages';

/**
 * The working picture drawn by the light kernel, where no GPU helps: asked for view by view, made one at a time. What is asked for
 * meanwhile waits, and only the last of it is made.
 */
export class KernelDraft {
  private underWay = false;
  private waiting: RefineView | undefined;

  constructor(private readonly tell: (message: ToRefiner) => void) {}

  /** Whether what was asked for last has come. */
  get isDone(): boolean {
    return !this.underWay;
  }

  ask(view: RefineView): void {
    if (this.underWay) {
      this.waiting = view;
      return;
    }
    this.underWay = true;
    this.tell({ type: 'moving', view });
  }

  /** A picture has come, or was given up. */
  came(): void {
    this.underWay = false;
    const next = this.waiting;
    this.waiting = undefined;
    if (next) this.ask(next);
  }
}
