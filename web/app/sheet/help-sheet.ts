import { ChangeDetectionStrategy, Component, ElementRef, input, viewChild } from '@angular/core';
import { KeyTable } from './key-table';

/** What one does first at each station. */
const STEPS: Readonly<Record<string, readonly string[]>> = {
  Source: ['Link the modelling tool, or drop a model file on the list.', 'Look at the findings: what is wrong with the model is mended by one click.', 'Hide layers that are not to be seen.'],
  Finishes: ['Open a row: the finish and why it is there.', 'Drag a finish from the library onto the picture, or onto a row.', 'Change its parameters; the picture follows.'],
  Light: ['Drag the sun along the band below, or choose month and hour.', 'Set levels of lamps in the luminaire schedule.', 'Keep the light as a condition.'],
  Setting: ['Choose a thing in the library, then click in the picture or the plan.', 'Plant rows and areas; they stay one row of the schedule each.', 'Shape the ground in its tab.'],
  Views: ['Frame what is seen and keep it under a name.', 'Cut the building open with a section; show it as card, in lines, as a key.', 'Walk, and make a walk of views.'],
  Delivery: ['Tick views by conditions in the register and print them.', 'Make a viewer, the file that the client opens.', 'Everything that went out stands in the transmittal.'],
}; // prettier-ignore

@Component({
  selector: 'dp-help-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [KeyTable],
  template: `
    <dialog #dialog data-testid="help" aria-labelledby="help-title">
      <h1 id="help-title">{{ station() }}: the first steps</h1>
      <ol>
        @for (step of steps[station()]; track step) {
          <li>{{ step }}</li>
        }
      </ol>
      <dp-key-table />
      <form method="dialog"><button class="btn btn-sm btn-outline-dark" autofocus>Close</button></form>
    </dialog>
  `,
  styles: `
    dialog {
      width: min(960px, 94vw);
      padding: 20px 24px;
      border: 1px solid var(--ink);
      background: var(--paper-raised);
      color: var(--ink);
    }
    dialog::backdrop {
      background: #22303a55;
    }
    h1 {
      font-size: 1.125rem;
      font-weight: 600;
    }
  `,
})
export class HelpSheet {
  readonly station = input.required<string>();
  protected readonly steps = STEPS;
  private readonly dialog = viewChild.required<ElementRef<HTMLDialogElement>>('dialog');

  show(): void {
    this.dialog().nativeElement.showModal();
  }
}
