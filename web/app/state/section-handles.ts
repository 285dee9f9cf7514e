import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { Vec3 } from '../../../core/geometry/vec3';
import { entry } from '../../../core/project/project';
import { carriedSection, sectionFrame, sectionOutline } from '../../../core/project/section-shape';
import { NOTHING_HELD, type Handling } from './handling';
import { Live } from './live';
import { PictureState } from './picture-state';
import { SceneState } from './scene-state';

/** The section whose card is open: moved, turned and, where it is a box, sized by hand. */
@Injectable({ providedIn: 'root' })
export class SectionHandles {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly on = toSignal(this.picture.sections$, { requireSync: true });
  readonly open = signal('');
  /** Where its handles stand: near what was looked at when it was opened. */
  private readonly near = computed((): Vec3 => {
    this.open();
    return this.picture.camera$.value.target;
  });

  readonly handling = computed((): Handling => {
    const id = this.open();
    const section = entry(this.entries(), `section/${id}`);
    if (!section || !this.on().includes(id)) return NOTHING_HELD;
    const frame = sectionFrame(section.cut, this.near());
    const isBox = section.cut.kind === 'box';
    return {
      outlines: [{ segments: sectionOutline(section.cut, frame), isChosen: true }],
      held: {
        key: id,
        words: section.name,
        modes: isBox
          ? { translate: { axes: 'xyz', own: true }, rotate: { axes: 'z', own: true }, scale: { axes: 'xyz', own: true } }
          : { translate: { axes: 'z', own: true }, rotate: { axes: 'xyz', own: true } },
        frame,
        preview: (by) => {
          this.scene.sectionPreview$.next({ id, section: { ...section, cut: carriedSection(section.cut, frame, by) } });
        },
        put: (by) => {
          this.live.run({ type: 'keep-section', id, section: { ...section, cut: carriedSection(section.cut, frame, by) } });
          this.scene.sectionPreview$.next(undefined);
        },
      },
    };
  });
}
