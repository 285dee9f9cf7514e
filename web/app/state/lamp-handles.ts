import { computed, inject, Injectable } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { transformPoint, translation, type Mat4 } from '../../../core/geometry/mat4';
import { add, cross, scale, type Vec3 } from '../../../core/geometry/vec3';
import { lampFrame, movedFrame } from '../../../core/lamp/frame';
import { lampOutline } from '../../../core/lamp/outline';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { thingKey } from '../../../core/project/things';
import type { Handling, HandleMode } from './handling';
import { LampPlacing } from './lamp-placing';
import { LampSelection, type SelectableLamp } from './lamp-selection';
import { SceneState } from './scene-state';

/** Lamps that were placed here, in their true size; those that are chosen are moved and turned by hand. */
@Injectable({ providedIn: 'root' })
export class LampHandles {
  private readonly scene = inject(SceneState);
  private readonly selection = inject(LampSelection);
  private readonly placing = inject(LampPlacing);
  private readonly shown = toSignal(this.selection.shown$, { initialValue: [] });
  private readonly chosen = toSignal(this.selection.chosen$, { requireSync: true });

  readonly handling = computed((): Handling => {
    const [shown, chosen] = [this.shown(), this.chosen()];
    const outlines = shown.map(({ id, lamp }) => ({ segments: lampOutline(lamp), isChosen: chosen.has(id) }));
    const lamps = shown.filter(({ id }) => chosen.has(id));
    if (lamps.length === 0) return { outlines };
    const only = lamps.length === 1 ? lamps[0]!.lamp : undefined;
    return {
      outlines,
      held: {
        key: lamps.map(({ id }) => id).join(' '),
        words: only ? 'one lamp' : `${String(lamps.length)} lamps`,
        // One lamp turns about itself, several about the world's axes through their middle.
        modes: { translate: { axes: 'xyz', own: false }, rotate: { axes: 'xyz', own: only !== undefined } },
        frame: only ? frameOf(only) : translation(...middleOf(lamps)),
        preview: (by) => {
          this.scene.lightingPreview$.next(new Map(lamps.map(({ id, lamp }) => [thingKey(id), movedLamp(lamp, by)])));
        },
        put: (by, mode) => {
          this.put(lamps, by, mode);
        },
      },
    };
  });

  private put(lamps: readonly SelectableLamp[], by: Mat4, mode: HandleMode): void {
    const what = lamps.length === 1 ? lamps[0]!.lamp.name : `${String(lamps.length)} lamps`;
    const moved = lamps.map(({ id, lamp }) => ({ id, lamp: movedLamp(lamp, by) }));
    this.placing.put(moved, `${what} ${mode === 'translate' ? 'moved' : 'turned'}`);
    this.scene.lightingPreview$.next(undefined);
  }
}

function middleOf(lamps: readonly SelectableLamp[]): Vec3 {
  return lamps.reduce<Vec3>((sum, { lamp }) => add(sum, scale(lamp.position, 1 / lamps.length)), [0, 0, 0]);
}

/** Columns: plane C0, across it, against the axis. */
function frameOf({ position, direction, turnDeg }: PlacedLamp): Mat4 {
  const { axis, right } = lampFrame(direction, turnDeg);
  const z = scale(axis, -1);
  return [...right, 0, ...cross(z, right), 0, ...z, 0, ...position, 1];
}

/** A lamp after a movement of what holds it; lengths stay. */
function movedLamp(lamp: PlacedLamp, by: Mat4): PlacedLamp {
  const { direction, turnDeg } = movedFrame(by, lamp.direction, lamp.turnDeg);
  return { ...lamp, position: [...transformPoint(by, lamp.position)], direction: [...direction], turnDeg };
}
