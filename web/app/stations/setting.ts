import { ChangeDetectionStrategy, Component, DestroyRef, inject } from '@angular/core';
import { NgbNavModule } from '@ng-bootstrap/ng-bootstrap';
import { LandState } from '../state/land-state';
import { SettingState } from '../state/setting-state';
import { GroundPanel } from './ground-panel';
import { PlantingPlan } from './planting-plan';
import { PlantingSchedule } from './planting-schedule';
import { SetStrip } from './set-strip';
import { StandIns } from './stand-ins';
import { ThingShelf } from './thing-shelf';

/** What lies about the building: planting and entourage in the plan, the library they come from, and the ground. */
@Component({
  selector: 'dp-setting-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [GroundPanel, NgbNavModule, PlantingPlan, PlantingSchedule, SetStrip, StandIns, ThingShelf],
  template: `
    <dp-planting-plan />
    <dp-set-strip />
    <div class="head">
      <div ngbNav #nav="ngbNav" class="tabs" [animation]="false" [activeId]="state.tab()" (activeIdChange)="state.tab.set($event)">
        <ng-container ngbNavItem="library">
          <button ngbNavLink type="button" class="plain">Library</button>
          <ng-template ngbNavContent><dp-thing-shelf /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="schedule">
          <button ngbNavLink type="button" class="plain">Schedule</button>
          <ng-template ngbNavContent><dp-planting-schedule /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="stand-ins">
          <button ngbNavLink type="button" class="plain">Stand-ins</button>
          <ng-template ngbNavContent><dp-stand-ins /></ng-template>
        </ng-container>
        <ng-container ngbNavItem="ground">
          <button ngbNavLink type="button" class="plain">Ground</button>
          <ng-template ngbNavContent>
            <dp-ground-panel />
          </ng-template>
        </ng-container>
      </div>
    </div>
    <div class="panels" [ngbNavOutlet]="nav"></div>
  `,
  styleUrl: './station.scss',
  styles: `
    dp-planting-plan {
      display: block;
      padding-top: 12px;
    }
    .panels {
      flex: 1;
      min-height: 0;
      display: flex;
      flex-direction: column;
    }
  `,
})
export class SettingStation {
  protected readonly state = inject(SettingState);
  private readonly land = inject(LandState);

  constructor() {
    this.state.look(true);
    inject(DestroyRef).onDestroy(() => {
      this.land.stop();
      this.state.look(false);
    });
  }
}
