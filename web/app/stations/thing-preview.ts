import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, ElementRef, inject, input, signal } from '@angular/core';
import { defaultForm, type ThingKind } from '../../../core/setting/thing-kind';
import { PreviewQueue } from '../state/previews';

/** How a thing of the library looks, by the light kernel; asked for once it is in sight. */
@Component({
  selector: 'dp-thing-preview',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `@if (isReady()) {
      <img [src]="address()" alt="" width="200" height="160" />
    } @else {
      <span class="wait" aria-hidden="true"></span>
    }`,
  styles: `
    :host {
      display: block;
      aspect-ratio: 5 / 4;
      background: var(--rule);
      border-radius: 2px;
      overflow: hidden;
    }
    img {
      display: block;
      width: 100%;
      height: auto;
    }
  `,
})
export class ThingPreview {
  readonly kind = input.required<ThingKind>();
  readonly form = input<string>();
  readonly state = input<string>();
  private readonly queue = inject(PreviewQueue);
  private readonly inSight = signal(false);
  protected readonly address = computed(() => {
    const kind = this.kind();
    const form = kind.forms.find(({ id }) => id === this.form()) ?? defaultForm(kind);
    const state = this.state() ?? kind.states[0];
    const [part] = form.parts;
    return `/api/things/${kind.id}/${form.id}/preview.png?mark=${part?.mesh.slice(0, 12) ?? ''}${state ? `&state=${state}` : ''}`;
  });
  protected readonly isReady = computed(() => this.queue.ready().has(this.address()));

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const observer = new IntersectionObserver((entries) => {
      this.inSight.set(entries.some(({ isIntersecting }) => isIntersecting));
    });
    observer.observe(host);
    effect(() => {
      if (this.inSight()) this.queue.ask(this.address());
      else this.queue.forget(this.address());
    });
    inject(DestroyRef).onDestroy(() => {
      observer.disconnect();
      this.queue.forget(this.address());
    });
  }
}
