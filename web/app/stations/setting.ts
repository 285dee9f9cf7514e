import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { entry, type GroundChoice } from '../../../core/project/project';
import { Live } from '../state/live';

const CHOICES: readonly { choice: GroundChoice; words: string }[] = [
  { choice: 'auto', words: 'where the model has none' },
  { choice: 'always', words: 'always' },
  { choice: 'never', words: 'never' },
];

/** What lies about the building: its ground so far. */
@Component({
  selector: 'dp-setting-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head"><h1>Setting</h1></div>
    <div class="body">
      <h2 class="mt-0">Plain ground</h2>
      <p>A neutral, level ground at the model’s lowest level, out to the horizon.</p>
      @for (c of choices; track c.choice) {
        <label class="form-check">
          <input class="form-check-input" type="radio" name="ground" [checked]="ground() === c.choice" (change)="lay(c.choice)" />
          {{ c.words }}
        </label>
      }
      <p class="quiet mt-3">Terrain, planting, people and things, roads and the far surround will be set here; none of that works yet.</p>
    </div>
  `,
  styleUrl: './station.scss',
})
export class SettingStation {
  private readonly live = inject(Live);
  protected readonly choices = CHOICES;
  protected readonly ground = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'ground') ?? 'auto')), {
    initialValue: 'auto',
  });

  protected lay(ground: GroundChoice): void {
    this.live.run({ type: 'lay-ground', ground });
  }
}
