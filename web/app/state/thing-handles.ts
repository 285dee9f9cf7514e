import { computed, inject, Injectable } from '@angular/core';
import { translation } from '../../../core/geometry/mat4';
import { thingOutline } from '../../../core/setting/outline';
import { NOTHING_HELD, type Handling } from './handling';
import { SettingState } from './setting-state';

/** What is set and open or chosen: moved, turned about the vertical and sized by hand. */
@Injectable({ providedIn: 'root' })
export class ThingHandles {
  private readonly setting = inject(SettingState);

  readonly handling = computed((): Handling => {
    const ids = this.setting.held();
    const sets = this.setting.sets().filter(({ id }) => ids.has(id));
    const feet = sets.flatMap(({ members }) => members.map(({ position }) => position));
    if (feet.length === 0) return NOTHING_HELD;
    const [x, y, z] = [0, 1, 2].map((k) => feet.reduce((sum, foot) => sum + foot[k]!, 0) / feet.length) as [number, number, number];
    return {
      outlines: sets.map(({ thing, members }) => ({ segments: thingOutline(thing, members), isChosen: true })),
      held: {
        key: sets.map(({ id }) => id).join(' '),
        words: sets.length === 1 ? sets[0]!.thing.name : `${String(sets.length)} things`,
        modes: { translate: { axes: 'xyz', own: false }, rotate: { axes: 'z', own: false }, scale: { axes: 'xyz', own: false } },
        frame: translation(x, y, z),
        preview: () => undefined,
        put: (by, mode) => void this.setting.carry(sets, by, { translate: 'moved', rotate: 'turned', scale: 'sized' }[mode]),
      },
    };
  });
}
