import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { entry } from '../../../core/project/project';
import { NO_DRAWING, sameDrawing, STYLES, type Drawing, type Style } from '../../../core/project/style';
import { legendRows, legendSvg } from '../../../core/render/legend';
import { hexOf } from '../sheet/colour-field';
import { saveFile } from '../sheet/save-file';
import { Slider } from '../sheet/slider';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';

/** How the picture shows what surfaces are made of, lines over it, and the legend of a key. */
@Component({
  selector: 'dp-style-card',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Slider],
  template: `
    <h2>Shown as</h2>
    <div class="field">
      <label for="style">Style</label>
      <select id="style" class="form-select form-select-sm" data-testid="style" (change)="choose($any($event.target).value)">
        @for (name of names; track name) {
          <option [value]="name" [selected]="name === chosen()">{{ name }}</option>
        }
        @if (!chosen()) {
          <option value="" selected>{{ style().kind }}, mixed</option>
        }
      </select>
    </div>
    <dp-slider name="style-lines" label="Lines" [value]="style().lines" [words]="percent(style().lines)" (slid)="slide({ lines: $event })" (set)="set({ lines: $event })" />
    <dp-slider name="style-paper" label="Paper in place of the picture" [value]="style().paper" [words]="percent(style().paper)" (slid)="slide({ paper: $event })" (set)="set({ paper: $event })" />
    <dp-slider name="style-sketch" label="Lines by hand" [value]="style().sketch ?? 0" [words]="percent(style().sketch ?? 0)" (slid)="slide({ sketch: $event })" (set)="set({ sketch: $event })" />
    <dp-slider name="style-wash" label="Painted in washes" [value]="style().wash ?? 0" [words]="percent(style().wash ?? 0)" (slid)="slide({ wash: $event })" (set)="set({ wash: $event })" />
    @if (legend().length > 0) {
      <ul class="legend" data-testid="legend">
        @for (row of legend(); track row.id) {
          <li><span class="patch" [style.background]="hex(row.colour)"></span>{{ row.name }}</li>
        }
      </ul>
      <button type="button" class="link" data-testid="legend-save" (click)="save()">Save the legend (SVG)</button>
    }
  `,
  styleUrl: './station.scss',
  styles: `
    .legend {
      list-style: none;
      margin: 8px 0 4px;
      padding: 0;
      columns: 2;
      font-size: 0.8125rem;
    }
    .patch {
      display: inline-block;
      width: 14px;
      height: 10px;
      margin-right: 6px;
      border: 1px solid var(--rule);
    }
  `,
}) // prettier-ignore
export class StyleCard {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly names = Object.keys(STYLES);
  private readonly drawing = toSignal(this.scene.drawing$, { initialValue: NO_DRAWING });
  private readonly kind = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'style') ?? 'photograph')), {
    initialValue: 'photograph' as const,
  });
  protected readonly style = computed((): Style => ({ kind: this.kind(), ...this.drawing() }));
  protected readonly chosen = computed(() => this.names.find((name) => same(STYLES[name]!, this.style())) ?? '');
  protected readonly legend = toSignal(
    combineLatest([this.live.entries$, this.scene.scene$]).pipe(
      map(([entries, { instances }]) => (entry(entries, 'style') === 'key of finishes' ? legendRows(instances) : [])),
    ),
    { initialValue: [] },
  );

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.scene.drawingPreview$.next(undefined);
    });
  }

  protected readonly percent = (share: number): string => `${(share * 100).toFixed(0)} %`;
  protected readonly hex = hexOf;

  protected choose(name: string): void {
    const style = STYLES[name];
    if (style) this.live.run({ type: 'set-style', style });
  }

  protected slide(change: Partial<Drawing>): void {
    this.scene.drawingPreview$.next({ ...this.drawing(), ...change });
  }

  protected set(change: Partial<Drawing>): void {
    this.live.run({ type: 'set-style', style: { ...this.style(), ...change } });
    this.scene.drawingPreview$.next(undefined);
  }

  protected save(): void {
    saveFile('Key of finishes.svg', 'image/svg+xml', new TextEncoder().encode(legendSvg(this.legend())));
  }
}

const same = (a: Style, b: Style): boolean => a.kind === b.kind && sameDrawing(a, b);
