import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, inject, signal, viewChild } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, first, switchMap } from 'rxjs';
import { TRIAL_KINDS, trialsOf, type Trial, type TrialKind } from '../../../core/scene/trials';
import { LightTable } from '../state/light-table';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { Proofs } from '../state/proofs';
import { SceneState } from '../state/scene-state';
import { Icon } from './icon';

const WIDTH = 208;
const SAMPLES = 4;
const WORDS: Record<TrialKind, string> = { hours: 'Hours', dates: 'Months', skies: 'Skies' };

/** Small pictures of the view under a dozen hours, months or skies, numbered on paper; a click takes one over. */
@Component({
  selector: 'dp-contact-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    @if (kind(); as k) {
      <section #paper tabindex="-1" role="dialog" aria-label="Contact sheet" data-testid="contact-sheet" (keydown.escape)="close()">
        <div class="top">
          <strong>Contact sheet</strong>
          <span class="quiet text-truncate">{{ view() ?? 'Free view' }}</span>
          <span class="kinds">
            @for (other of kinds; track other) {
              <button type="button" class="plain" [attr.aria-pressed]="other === k" (click)="table.contactSheet$.next(other)">
                {{ words[other] }}
              </button>
            }
          </span>
          <span class="mono quiet" data-testid="contact-count">{{ pictures().size }} of {{ trials().length }}</span>
          <button type="button" class="plain" aria-label="Close the contact sheet" (click)="close()"><dp-icon name="close" /></button>
        </div>
        <div class="frames">
          @for (trial of trials(); track trial.id; let i = $index) {
            <button type="button" class="plain frame" [attr.aria-pressed]="trial.isNow" (click)="take(trial)">
              <span class="film" [style.aspect-ratio]="aspect()">
                @if (pictures().get(trial.id); as picture) {
                  <img [src]="picture" alt="" />
                }
              </span>
              <span class="label"
                ><span class="mono number">{{ i + 1 }}{{ trial.isNow ? ' ●' : '' }}</span>
                <span class="text-truncate" [title]="trial.label">{{ trial.label }}</span></span
              >
            </button>
          }
        </div>
      </section>
    }
  `,
  styles: `
    section {
      position: absolute;
      inset: 0;
      z-index: 5;
      display: flex;
      flex-direction: column;
      padding: 12px 16px;
      background: var(--paper-raised);
      outline: none;
    }
    .top {
      display: flex;
      align-items: baseline;
      gap: 14px;
      padding-bottom: 8px;
    }
    .kinds {
      display: flex;
      gap: 12px;
      margin-left: auto;
    }
    .kinds [aria-pressed='true'] {
      font-weight: 600;
      border-bottom: 2px solid var(--ink);
    }
    .frames {
      flex: 1;
      min-height: 0;
      overflow: auto;
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(176px, 1fr));
      align-content: start;
      gap: 12px;
      padding: 4px;
    }
    .film {
      display: block;
      width: 100%;
      background: #1d1f20;
      padding: 0;
    }
    img {
      width: 100%;
      height: 100%;
      display: block;
    }
    .label {
      display: flex;
      gap: 8px;
      font-size: 0.8125rem;
      padding-top: 2px;
    }
    .number {
      color: var(--now);
      flex: none;
    }
    .frame[aria-pressed='true'] .film {
      outline: 2px solid var(--now);
      outline-offset: 2px;
    }
    .frame[aria-pressed='true'] .label {
      font-weight: 600;
    }
  `,
})
export class ContactSheet {
  protected readonly table = inject(LightTable);
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly picture = inject(PictureState);
  private readonly proofs = inject(Proofs);
  private readonly paper = viewChild<ElementRef<HTMLElement>>('paper');
  protected readonly kinds = TRIAL_KINDS;
  protected readonly words = WORDS;
  protected readonly kind = toSignal(this.table.contactSheet$);
  protected readonly view = toSignal(this.picture.viewName$);
  protected readonly trials = signal<readonly Trial[]>([]);
  protected readonly pictures = signal<ReadonlyMap<string, string>>(new Map());
  private readonly size = toSignal(this.picture.size$, { requireSync: true });
  protected readonly aspect = computed(() => this.size().width / this.size().height);

  constructor() {
    this.table.contactSheet$
      .pipe(
        switchMap((kind) => {
          this.pictures.set(new Map());
          if (!kind) return [];
          return combineLatest([this.live.entries$, this.scene.moment$]).pipe(
            first(),
            switchMap(([entries, moment]) => {
              const trials = trialsOf(kind, entries, moment);
              this.trials.set(trials);
              return this.proofs.make('contact-sheet', trials, WIDTH, SAMPLES);
            }),
          );
        }),
        takeUntilDestroyed(),
      )
      .subscribe(({ id, picture }) => {
        this.pictures.update((pictures) => new Map(pictures).set(id, picture));
      });
    effect(() => {
      this.paper()?.nativeElement.focus();
    });
  }

  protected take({ command }: Trial): void {
    this.live.run(command);
    this.close();
  }

  protected close(): void {
    this.table.contactSheet$.next(undefined);
  }
}
