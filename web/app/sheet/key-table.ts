import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ACTION_IDS, ACTIONS, Controls, keyOf, SCHEME_IDS, SCHEMES, type Action, type SchemeId } from '../state/controls';

/** What lists and open rows answer to, which is the same in every scheme. */
const IN_SCHEDULES = [
  ['arrows', 'from row to row'],
  ['Enter', 'open a row'],
  ['Escape', 'leave what was begun'],
] as const;

/** How mouse and keys work: the scheme, and each key, which a click assigns anew. */
@Component({
  selector: 'dp-key-table',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './key-table.html',
  styleUrl: './key-table.scss',
})
export class KeyTable {
  protected readonly controls = inject(Controls);
  protected readonly schemes = SCHEME_IDS.map((id) => ({ id, name: SCHEMES[id].name }));
  protected readonly inSchedules = IN_SCHEDULES;
  protected readonly groups = (['Everywhere', 'In the picture'] as const).map((where) => ({
    where,
    actions: ACTION_IDS.filter((id) => ACTIONS[id].where === where).map((id) => ({ id, does: ACTIONS[id].does })),
  }));
  /** Whose next key is waited for. */
  protected readonly waiting = signal<Action | undefined>(undefined);
  protected readonly refusal = signal('');
  /** What else has the same key, in words. */
  protected readonly conflicts = computed(() => {
    this.controls.keys();
    return new Map(ACTION_IDS.map((id) => [id, this.controls.conflictsOf(id).map((other) => ACTIONS[other].does).join('; ')])); // prettier-ignore
  });

  protected choose(scheme: string): void {
    this.controls.choose(scheme as SchemeId);
  }

  protected wait(action: Action): void {
    this.refusal.set('');
    this.waiting.update((now) => (now === action ? undefined : action));
  }

  protected key(event: KeyboardEvent, action: Action): void {
    if (this.waiting() !== action) return;
    const key = keyOf(event);
    if (key === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    this.waiting.set(undefined);
    if (key !== 'Escape') this.refusal.set(this.controls.assign(action, key) ?? '');
  }
}
