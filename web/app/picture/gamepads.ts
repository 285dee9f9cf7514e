import type { Steering } from './navigation';

/** Sticks that are let go still tell a little. */
const DEAD_ZONE = 0.15;
/** By the standard layout of the W3C's Gamepad specification. */
const BUTTONS = { lastPlace: 4, nextPlace: 5, sink: 6, rise: 7, all: 8 } as const;
export type PadAction = 'lastPlace' | 'nextPlace' | 'all';
const ACTIONS: readonly PadAction[] = ['lastPlace', 'nextPlace', 'all'];

type Pad = Pick<Gamepad, 'axes' | 'buttons' | 'mapping'>;

interface Heeder {
  steer: (steering: Steering) => void;
  act: (action: PadAction) => void;
}

/** Gamepads move the eye: the left stick goes, the right one looks, the triggers sink and rise. */
export class Gamepads {
  private pressed = new Set<PadAction>();
  private asked = 0;
  private readonly begin = () => {
    if (this.asked === 0) this.poll();
  };

  constructor(private readonly heeder: Heeder) {
    addEventListener('gamepadconnected', this.begin);
  }

  close(): void {
    removeEventListener('gamepadconnected', this.begin);
    cancelAnimationFrame(this.asked);
  }

  /** The browser tells of no change by itself. */
  private poll(): void {
    const pad = navigator.getGamepads().find((each) => each?.mapping === 'standard');
    this.heeder.steer(pad ? steeringOf(pad) : REST);
    const pressed = new Set(pad ? ACTIONS.filter((action) => pad.buttons[BUTTONS[action]]?.pressed) : []);
    for (const action of pressed) if (!this.pressed.has(action)) this.heeder.act(action);
    this.pressed = pressed;
    this.asked = pad ? requestAnimationFrame(() => { this.poll(); }) : 0; // prettier-ignore
  }
}

const REST: Steering = { ahead: 0, aside: 0, turn: 0, look: 0, rise: 0 };

/** How far its sticks and triggers are pushed. */
export function steeringOf({ axes, buttons }: Pad): Steering {
  const stick = (i: number) => {
    const pushed = axes[i] ?? 0;
    return Math.abs(pushed) < DEAD_ZONE ? 0 : (Math.sign(pushed) * (Math.abs(pushed) - DEAD_ZONE)) / (1 - DEAD_ZONE);
  };
  const trigger = (i: number) => buttons[i]?.value ?? 0;
  return { ahead: 0 - stick(1), aside: stick(0), turn: stick(2), look: 0 - stick(3), rise: trigger(BUTTONS.rise) - trigger(BUTTONS.sink) };
}
