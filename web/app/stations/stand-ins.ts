import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { entry } from '../../../core/project/project';
import { STAND_IN_BY, standInCounts, type StandIn } from '../../../core/setting/stand-in';
import { Icon } from '../sheet/icon';
import { Areas } from '../state/areas';
import { Live } from '../state/live';
import { Revisions } from '../state/revisions';
import { SettingState } from '../state/setting-state';

/** Rules by which things of the library stand for elements of the models. */
@Component({
  selector: 'dp-stand-ins',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  template: `
    <div class="scroll body" data-testid="stand-ins">
      <p class="quiet">Elements that a rule fits are shown as a thing of the library, in their place, turn and size; new ones too as they come over the link.</p>
      @for (rule of rules(); track $index) {
        <div class="rule" data-testid="stand-in">
          <span class="text-truncate">{{ words[rule.by] }} “{{ rule.pattern }}” → {{ nameOf(rule.kind) }}{{ rule.state ? ', ' + rule.state : '' }}</span>
          <span class="mono">{{ counts()[$index] }}</span>
          <button type="button" class="plain" [attr.aria-label]="'Drop the rule for ' + rule.pattern" (click)="drop($index)"><dp-icon name="remove" /></button>
        </div>
      } @empty {
        <p>Nothing stands in for anything yet.</p>
      }
      <form class="field mt-3" (submit)="$event.preventDefault(); add(pattern)">
        <label for="stand-by">Elements whose</label>
        <select id="stand-by" class="form-select form-select-sm" (change)="by.set($any(text($event)))">
          @for (one of ways; track one) {
            <option [value]="one" [selected]="one === by()">{{ words[one] }} has</option>
          }
        </select>
        <label for="stand-pattern">the words</label>
        <input #pattern id="stand-pattern" class="form-control form-control-sm" maxlength="200" placeholder="birch, chair*" data-testid="stand-in-pattern" />
        <label for="stand-kind">are shown as</label>
        <select id="stand-kind" class="form-select form-select-sm" data-testid="stand-in-kind" (change)="kind.set(text($event))">
          @for (one of kinds(); track one.id) {
            <option [value]="one.id" [selected]="one.id === kind()">{{ one.name }}</option>
          }
        </select>
        @if (states().length > 1) {
          <label for="stand-state">in state</label>
          <select id="stand-state" class="form-select form-select-sm" data-testid="stand-in-state" (change)="state.set(text($event))">
            @for (one of states(); track one) {
              <option [value]="one" [selected]="one === state()">{{ one }}</option>
            }
          </select>
        }
        <label for="stand-size">Size ×, turned °</label>
        <span>
          <input #size id="stand-size" class="mono" type="number" min="0.05" max="20" step="0.05" value="1" />
          <input #turn class="mono ms-1" type="number" min="-360" max="360" step="5" value="0" aria-label="Turned, degrees" />
        </span>
        <span></span>
        <button type="submit" class="btn btn-sm btn-outline-dark" data-testid="stand-in-add" (click)="sizes = [size.valueAsNumber, turn.valueAsNumber]"><dp-icon name="plus" /> Let it stand in</button>
      </form>
      @if (fault()) {
        <p class="fault" role="status">{{ fault() }}</p>
      }
    </div>
  `,
  styleUrl: './station.scss',
  styles: `
    .rule {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto auto;
      gap: 10px;
      align-items: center;
      padding: 5px 0;
      border-bottom: 1px solid var(--rule);
    }
    input[type='number'] {
      width: 70px;
    }
  `,
}) // prettier-ignore
export class StandIns {
  private readonly live = inject(Live);
  private readonly library = inject(SettingState);
  private readonly models = toSignal(inject(Revisions).models$, { initialValue: new Map() });
  private readonly bounds = toSignal(inject(Areas).bounds$, { requireSync: true });
  protected readonly ways = STAND_IN_BY;
  protected readonly words = { name: 'name', class: 'class', layer: 'layer', material: 'source material' } as const;
  protected readonly rules = toSignal(this.live.entries$.pipe(map((entries) => entry(entries, 'stand-ins') ?? [])), { initialValue: [] });
  protected readonly kinds = computed(() => [...this.library.kinds().values()]);
  protected readonly by = signal<StandIn['by']>('name');
  protected readonly kind = signal('birch');
  protected readonly state = signal('');
  protected readonly fault = signal('');
  protected readonly states = computed(() => this.library.kinds().get(this.kind())?.states ?? []);
  protected sizes: [number, number] = [1, 0];
  /** Of each rule, how many elements it stands for. */
  protected readonly counts = computed(() => standInCounts(this.models().values(), this.rules(), (mesh) => this.bounds().get(mesh)));

  protected nameOf(kind: string): string {
    return this.library.kinds().get(kind)?.name ?? kind;
  }

  protected add(input: HTMLInputElement): void {
    const pattern = input.value.trim();
    if (!pattern) {
      this.fault.set('Say which words: a part of the name, * stands for anything.');
      return;
    }
    this.fault.set('');
    const [size, turn] = this.sizes;
    const state = this.states().includes(this.state()) ? this.state() : this.states()[0];
    const rule: StandIn = {
      by: this.by(), pattern, kind: this.kind(), ...(state && { state }),
      size: Number.isFinite(size) ? Math.min(20, Math.max(0.05, size)) : 1, turnDeg: Number.isFinite(turn) ? Math.min(360, Math.max(-360, turn)) : 0,
    }; // prettier-ignore
    this.put([...this.rules(), rule], `${this.nameOf(rule.kind)} stands in for “${pattern}”`);
    input.value = '';
  }

  protected drop(i: number): void {
    const rule = this.rules()[i]!;
    this.put(this.rules().filter((_, k) => k !== i), `No stand-in for “${rule.pattern}” any more`); // prettier-ignore
  }

  protected text(event: Event): string {
    return (event.target as HTMLSelectElement).value;
  }

  private put(standIns: StandIn[], name: string): void {
    this.live.run({ type: 'set-stand-ins', standIns, name: name.slice(0, 200) });
  }
}
