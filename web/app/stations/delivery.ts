import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbNavModule } from '@ng-bootstrap/ng-bootstrap';
import { map } from 'rxjs';
import { Icon } from '../sheet/icon';
import { Live } from '../state/live';
import { PrintList } from './print-list';
import { PrintOrderForm } from './print-order-form';
import { DrawingRegister } from './drawing-register';
import { Transmittal } from './transmittal';
import { ViewersCard } from './viewers-card';

/** What goes to the client: one picture, many ticked in the register, the prints, and what went out. */
@Component({
  selector: 'dp-delivery-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DrawingRegister, Icon, NgbNavModule, PrintList, PrintOrderForm, Transmittal, ViewersCard],
  template: `
    <div class="head">
      <div ngbNav #nav="ngbNav" class="tabs" [animation]="false" [activeId]="tab()" (activeIdChange)="tab.set($event)">
        <ng-container ngbNavItem="one">
          <button ngbNavLink type="button" class="plain">One picture</button>
          <ng-template ngbNavContent><dp-print-order-form class="scroll" (ordered)="tab.set('prints')" /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="register">
          <button ngbNavLink type="button" class="plain">Register</button>
          <ng-template ngbNavContent><dp-drawing-register (ordered)="tab.set('prints')" /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="prints">
          <button ngbNavLink type="button" class="plain">
            Prints <span class="quiet mono">{{ count() }}</span>
          </button>
          <ng-template ngbNavContent><dp-print-list /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="viewer">
          <button ngbNavLink type="button" class="plain">Viewer</button>
          <ng-template ngbNavContent><dp-viewers-card /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="sent">
          <button ngbNavLink type="button" class="plain">Transmittal</button>
          <ng-template ngbNavContent>
            <div class="scroll">
              <dp-transmittal />
              <div class="body">
                <h2>The model</h2>
                @if (hasModel()) {
                  <a class="btn btn-sm btn-outline-dark" href="/api/export/model.glb" download data-testid="model-download"
                    ><dp-icon name="download" /> Dressed model as GLB</a
                  >
                  <p class="quiet mt-2 mb-0">What the picture shows now, with its finishes, their maps at 512 px, and its lamps.</p>
                } @else {
                  <p class="quiet mb-0">Nothing to hand over yet: no model is linked.</p>
                }
              </div>
            </div>
          </ng-template>
        </ng-container>
      </div>
    </div>
    <div class="panels" [ngbNavOutlet]="nav"></div>
  `,
  styleUrl: './station.scss',
})
export class DeliveryStation {
  private readonly live = inject(Live);
  protected readonly tab = signal('one');
  protected readonly count = toSignal(this.live.prints$.pipe(map(({ prints }) => prints.length || '')));
  protected readonly hasModel = toSignal(this.live.models$.pipe(map((models) => [...models.values()].some((m) => m.elements.size > 0))));
}
