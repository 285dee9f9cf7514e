import { ChangeDetectionStrategy, Component } from '@angular/core';

/** What will be here, said plainly. */
@Component({
  selector: 'dp-setting-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head"><h1>Setting</h1></div>
    <div class="body">
      <p>
        Terrain, planting, people and things, roads and the far surround will be set here. None of it works yet: the picture shows the model
        and its sky.
      </p>
    </div>
  `,
  styleUrl: './station.scss',
})
export class SettingStation {}
