import type { Action, Controls } from '../state/controls';
import type { PictureState } from '../state/picture-state';
import { MOTIONS, type Motion, type Navigation } from './navigation';

const isMotion = (action: Action): action is Motion => (MOTIONS as readonly Action[]).includes(action);

/** Keys over the picture: what is held moves the eye until it is let go. */
export class PictureKeys {
  /** By the place on the keyboard: what a key is called changes with Shift. */
  private readonly held = new Map<string, Motion>();

  constructor(
    private readonly controls: Controls,
    private readonly state: PictureState,
    private readonly navigation: () => Navigation,
  ) {}

  /** Whether the key is one of the picture's. */
  down(event: KeyboardEvent): boolean {
    const action = this.controls.actionOf(event);
    if (action === undefined) return false;
    if (isMotion(action)) {
      this.held.set(event.code, action);
      this.navigation().begin(action);
    } else if (!this.act(action)) return false;
    event.preventDefault();
    return true;
  }

  /** What is done once, by a key or a button of a gamepad; false: that is none of the picture's. */
  act(action: Action): boolean {
    if (action === 'all') this.state.seeAll$.next();
    else if (action === 'lastPlace') this.state.back$.next();
    else if (action === 'nextPlace') this.state.next$.next();
    else return false;
    return true;
  }

  up({ code }: KeyboardEvent): void {
    const motion = this.held.get(code);
    this.held.delete(code);
    if (motion && ![...this.held.values()].includes(motion)) this.navigation().end(motion);
  }

  release(): void {
    this.held.clear();
    this.navigation().stop();
  }
}
