import { ChangeDetectionStrategy, Component, DestroyRef, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbNavModule } from '@ng-bootstrap/ng-bootstrap';
import { map } from 'rxjs';
import { entry, type GroundChoice } from '../../../core/project/project';
import { Live } from '../state/live';
import { SettingState } from '../state/setting-state';
import { PlantingPlan } from './planting-plan';
import { PlantingSchedule } from './planting-schedule';
import { SetStrip } from './set-strip';
import { StandIns } from './stand-ins';
import { ThingShelf } from './thing-shelf';

const CHOICES: readonly { choice: GroundChoice; words: string }[] = [
  { choice: 'auto', words: 'where the model has none' },
  { choice: 'always', words: 'always' },
  { choice: 'never', words: 'never' },
];

/** What lies about the building: planting and entourage in the plan, the library they come from, and the ground. */
@Component({
  selector: 'dp-setting-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [NgbNavModule, PlantingPlan, PlantingSchedule, SetStrip, StandIns, ThingShelf],
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
            <div class="scroll body">
              <p>A neutral, level ground at the model’s lowest level, out to the horizon:</p>
              @for (c of choices; track c.choice) {
                <label class="form-check">
                  <input class="form-check-input" type="radio" name="ground" [checked]="ground() === c.choice" (change)="lay(c.choice)" />
                  {{ c.words }}
                </label>
              }
            </div>
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
  private readonly live = inject(Live);
  protected readonly state = inject(SettingState);
  protected readonly choices = CHOICES;
  protected readonly ground = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'ground') ?? 'auto')), {
    initialValue: 'auto',
  });

  constructor() {
    this.state.look(true);
    inject(DestroyRef).onDestroy(() => {
      this.state.look(false);
    });
  }

  protected lay(ground: GroundChoice): void {
    this.live.run({ type: 'lay-ground', ground });
  }
}
