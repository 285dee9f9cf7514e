import { computed, inject, Injectable } from '@angular/core';
import { LampHandles } from './lamp-handles';
import { SectionHandles } from './section-handles';
import { ThingHandles } from './thing-handles';
import type { Handling } from './handling';

/** All that is drawn over the picture; of what is held, the first: a station has one kind of it. */
@Injectable({ providedIn: 'root' })
export class Handlings {
  private readonly kinds = [inject(ThingHandles).handling, inject(SectionHandles).handling, inject(LampHandles).handling];

  readonly handling = computed((): Handling => {
    const all = this.kinds.map((kind) => kind());
    return { outlines: all.flatMap(({ outlines }) => outlines), held: all.find(({ held }) => held)?.held };
  });
  readonly isEmpty = computed(() => this.handling().outlines.length === 0);
}
