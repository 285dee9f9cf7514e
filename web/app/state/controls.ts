import { computed, Injectable, signal } from '@angular/core';
import * as v from 'valibot';

/** What keys do, in the order in which they are listed; of two that have the same key the upper one acts. */
export const ACTIONS = {
  find: { where: 'Everywhere', does: 'find anything by its name, and do it' },
  undo: { where: 'Everywhere', does: 'undo' },
  redo: { where: 'Everywhere', does: 'redo' },
  before: { where: 'Everywhere', does: 'held: the picture before the last step' },
  help: { where: 'Everywhere', does: 'this sheet' },
  ahead: { where: 'In the picture', does: 'ahead; about the building: up' },
  back: { where: 'In the picture', does: 'back; about the building: down' },
  left: { where: 'In the picture', does: 'sideways to the left' },
  right: { where: 'In the picture', does: 'sideways to the right' },
  rise: { where: 'In the picture', does: 'fly up' },
  sink: { where: 'In the picture', does: 'fly down' },
  turnLeft: { where: 'In the picture', does: 'turn left' },
  turnRight: { where: 'In the picture', does: 'turn right' },
  all: { where: 'In the picture', does: 'all of the building' },
  lastPlace: { where: 'In the picture', does: 'back to the last place' },
  nextPlace: { where: 'In the picture', does: 'forward to the next place' },
} as const satisfies Record<string, { where: 'Everywhere' | 'In the picture'; does: string }>;
export type Action = keyof typeof ACTIONS;
export const ACTION_IDS = Object.keys(ACTIONS) as Action[];

type Keys = Readonly<Record<Action, readonly string[]>>;

/** What a press of the pointer begins when it is drawn over the picture. */
export type Drag = 'turn' | 'slide' | 'choose';

export interface Scheme {
  /** By what it does. */
  name: string;
  drag(press: Pick<PointerEvent, 'button' | 'shiftKey' | 'ctrlKey' | 'metaKey'>): Drag;
  /** Two fingers over a trackpad, which browsers tell as a wheel, turn; otherwise the wheel brings nearer. */
  wheelTurns: boolean;
  mouse: readonly (readonly [string, string])[];
  keys: Keys;
}

const IN_ALL = {
  find: ['Ctrl+K'],
  undo: ['Ctrl+Z'],
  redo: ['Ctrl+Shift+Z', 'Ctrl+Y'],
  before: ['B'],
  help: ['?'],
  all: ['Home'],
  lastPlace: ['Backspace'],
  nextPlace: ['Shift+Backspace'],
  turnLeft: ['ArrowLeft'],
  turnRight: ['ArrowRight'],
} as const;
const LETTERS: Keys = {
  ...IN_ALL,
  ahead: ['W', 'ArrowUp'],
  back: ['S', 'ArrowDown'],
  left: ['A'],
  right: ['D'],
  rise: ['E'],
  sink: ['Q'],
};
const ARROWS: Keys = {
  ...IN_ALL,
  ahead: ['ArrowUp'],
  back: ['ArrowDown'],
  left: [','],
  right: ['.'],
  rise: ['PageUp'],
  sink: ['PageDown'],
};

export const SCHEMES = {
  'left-turns': {
    name: 'Left button turns, letters walk',
    drag: ({ button, shiftKey, ctrlKey, metaKey }) =>
      button === 0 && (ctrlKey || metaKey) ? 'choose' : button !== 0 || shiftKey ? 'slide' : 'turn',
    wheelTurns: false,
    mouse: [
      ['drag', 'turn about the building, or look'],
      ['right button, or Shift and drag', 'slide'],
      ['Ctrl and drag', 'choose what is in a box'],
      ['wheel', 'nearer, further; faster on foot'],
      ['double click', 'go there'],
    ],
    keys: LETTERS,
  },
  'right-turns': {
    name: 'Right button turns, left chooses',
    drag: ({ button, shiftKey }) => (button === 0 ? 'choose' : button === 1 || shiftKey ? 'slide' : 'turn'),
    wheelTurns: false,
    mouse: [
      ['drag', 'choose what is in a box'],
      ['right button and drag', 'turn about the building, or look'],
      ['wheel pressed, or Shift and right button', 'slide'],
      ['wheel', 'nearer, further; faster on foot'],
      ['double click', 'go there'],
    ],
    keys: LETTERS,
  },
  'fingers-turn': {
    name: 'Two fingers turn, arrows walk',
    drag: ({ button, shiftKey, ctrlKey, metaKey }) =>
      button === 0 && (ctrlKey || metaKey) ? 'choose' : button !== 0 || shiftKey ? 'turn' : 'slide',
    wheelTurns: true,
    mouse: [
      ['two fingers', 'turn about the building, or look'],
      ['pinch, or Ctrl and two fingers', 'nearer, further; faster on foot'],
      ['drag', 'slide'],
      ['Ctrl and drag', 'choose what is in a box'],
      ['double click', 'go there'],
    ],
    keys: ARROWS,
  },
} as const satisfies Record<string, Scheme>;
export type SchemeId = keyof typeof SCHEMES;
export const SCHEME_IDS = Object.keys(SCHEMES) as SchemeId[];

const STORAGE_KEY = 'controls';
const keptControls = v.object({
  scheme: v.picklist(SCHEME_IDS),
  keys: v.record(v.picklist(ACTION_IDS), v.array(v.pipe(v.string(), v.maxLength(30)))),
});
type KeptControls = v.InferOutput<typeof keptControls>;

/** Keys that browsers, fields and lists need as they are. */
const RESERVED = new Set(['Tab', 'Shift+Tab', 'Enter', 'Escape', 'F5', 'Ctrl+R', 'Ctrl+W', 'Ctrl+T', 'Ctrl+N']);

/** How mouse and keys work here, kept by the browser: a scheme, and keys that were assigned anew. */
@Injectable({ providedIn: 'root' })
export class Controls {
  private readonly kept = signal<KeptControls>(read());
  readonly schemeId = computed(() => this.kept().scheme);
  readonly scheme = computed<Scheme>(() => SCHEMES[this.schemeId()]);
  readonly keys = computed<Keys>(() => ({ ...this.scheme().keys, ...this.kept().keys }));
  private readonly actions = computed(() => {
    const byKey = new Map<string, Action>();
    for (const action of ACTION_IDS) for (const key of this.keys()[action]) if (!byKey.has(key)) byKey.set(key, action);
    return byKey;
  });

  choose(scheme: SchemeId): void {
    this.keep({ ...this.kept(), scheme });
  }

  /** One key in place of those that an action has; a sentence: why it may not. */
  assign(action: Action, key: string): string | undefined {
    if (RESERVED.has(key)) return `${wordsOf(key)} is needed by the browser and its fields; choose another key.`;
    this.keep({ ...this.kept(), keys: { ...this.kept().keys, [action]: [key] } });
    return undefined;
  }

  /** As the scheme has it. */
  restore(action: Action): void {
    const keys = { ...this.kept().keys };
    Reflect.deleteProperty(keys, action);
    this.keep({ ...this.kept(), keys });
  }

  isOwn(action: Action): boolean {
    return this.kept().keys[action] !== undefined;
  }

  /** Others that have a key of an action. */
  conflictsOf(action: Action): Action[] {
    const keys = this.keys();
    return ACTION_IDS.filter((other) => other !== action && keys[other].some((key) => keys[action].includes(key)));
  }

  /** What a key does. With Shift held one walks on. */
  actionOf(event: KeyboardEvent): Action | undefined {
    const key = keyOf(event);
    return key === undefined ? undefined : (this.actions().get(key) ?? this.actions().get(key.replace(/^Shift\+/, '')));
  }

  /** The keys of an action in words, such as "Ctrl Z"; empty: it has none. */
  words(action: Action): string {
    return this.keys()[action].map(wordsOf).join(' or ');
  }

  private keep(controls: KeptControls): void {
    this.kept.set(controls);
    globalThis.localStorage?.setItem(STORAGE_KEY, JSON.stringify(controls));
  }
}

function read(): KeptControls {
  try {
    const kept = v.safeParse(keptControls, JSON.parse(globalThis.localStorage?.getItem(STORAGE_KEY) ?? '{}'));
    if (kept.success) return kept.output;
  } catch {
    // What is not readable is as if it were not there.
  }
  return { scheme: 'left-turns', keys: {} };
}

const MODIFIERS = new Set(['Control', 'Shift', 'Alt', 'Meta', 'AltGraph', 'Dead', 'Unidentified', 'Process']);

/** A key with what is held beside it, such as "Ctrl+Shift+Z"; undefined: nothing but what is held. */
export function keyOf({ key, ctrlKey, metaKey, altKey, shiftKey }: KeyboardEvent): string | undefined {
  if (MODIFIERS.has(key)) return undefined;
  const name = key === ' ' ? 'Space' : key.length === 1 ? key.toUpperCase() : key;
  // A sign that Shift makes is told by itself.
  const isSign = key.length === 1 && key !== ' ' && key.toUpperCase() === key.toLowerCase();
  return [(ctrlKey || metaKey) && 'Ctrl', altKey && 'Alt', shiftKey && !isSign && 'Shift', name].filter(Boolean).join('+');
}

const WORDS: Readonly<Record<string, string>> = { ArrowUp: '↑', ArrowDown: '↓', ArrowLeft: '←', ArrowRight: '→', PageUp: 'Page up', PageDown: 'Page down' }; // prettier-ignore

export const wordsOf = (key: string): string =>
  key
    // A plus may be the key itself.
    .split(/\+(?=.)/)
    .map((part) => WORDS[part] ?? part)
    .join(' ');
