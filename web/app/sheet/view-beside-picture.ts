import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ViewBeside } from '../state/view-beside';
import { ViewGoer } from '../state/views';

/** The small picture of a view that is kept in sight beside the one that is worked on. */
@Component({
  selector: 'dp-view-beside-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (shown(); as beside) {
      <figure data-testid="view-beside" [attr.data-made]="beside.picture !== undefined">
        <button type="button" class="plain" [style.aspect-ratio]="beside.aspect" [attr.aria-label]="'Go to ' + beside.view.name" (click)="goer.go(beside.view)">
          @if (beside.picture; as picture) {
            <img [src]="picture" alt="" />
          }
        </button>
        <figcaption>
          <span class="text-truncate">{{ beside.view.name }}</span>
          <button type="button" class="plain" aria-label="Keep its picture in sight no longer" (click)="beside$.id$.next(undefined)">×</button>
        </figcaption>
      </figure>
    }
  `,
  styles: `
    figure {
      margin: 0;
      width: 168px;
      background: var(--paper-raised);
      border: 1px solid var(--ink);
      font-size: 0.75rem;
    }
    figure > button {
      display: block;
      width: 100%;
      background: var(--rule);
    }
    img {
      display: block;
      width: 100%;
      height: 100%;
    }
    figcaption {
      display: flex;
      justify-content: space-between;
      align-items: center;
      gap: 6px;
      padding: 1px 4px 1px 8px;
    }
  `,
}) // prettier-ignore
export class ViewBesidePicture {
  protected readonly beside$ = inject(ViewBeside);
  protected readonly goer = inject(ViewGoer);
  protected readonly shown = toSignal(this.beside$.shown$);
}
