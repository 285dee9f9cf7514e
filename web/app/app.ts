import { WalkProfile } from './sheet/walk-profile';
import { ChangeDetectionStrategy, Component, computed, HostListener, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbDropdownModule, NgbToast, NgbTooltipModule } from '@ng-bootstrap/ng-bootstrap';
import { concat, map, of, skip, switchMap, take, timer } from 'rxjs';
import { Picture } from './picture/picture';
import { ConditionSlips } from './sheet/condition-slips';
import { ContactSheet } from './sheet/contact-sheet';
import { DayBand } from './sheet/day-band';
import { Icon } from './sheet/icon';
import { localClock } from './sheet/local-clock';
import { TitleBlock } from './sheet/title-block';
import { ViewTools } from './sheet/view-tools';
import { Wipe } from './sheet/wipe';
import { PictureState } from './state/picture-state';
import { Live } from './state/live';
import { SceneState } from './state/scene-state';
import { DeliveryStation } from './stations/delivery';
import { FinishesStation } from './stations/finishes';
import { LightStation } from './stations/light';
import { SettingStation } from './stations/setting';
import { SourceStation } from './stations/source';
import { ViewsStation } from './stations/views';

const STATIONS = ['Source', 'Finishes', 'Light', 'Setting', 'Views', 'Delivery'] as const;
export type Station = (typeof STATIONS)[number];
/** Held down, it shows the picture before the last step. */
const BEFORE_KEY = 'b';
const STATE_WORDS = { 'in-step': 'in step', held: 'held', stopped: 'stopped', 'out-of-reach': 'out of reach' } as const;

/** The sheet: stations above, the open schedule at the left, the picture on its mat, the day band below. */
@Component({
  selector: 'dp-app',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    NgbDropdownModule, NgbToast, NgbTooltipModule, ConditionSlips, ContactSheet, Picture, DayBand, Icon, TitleBlock, ViewTools, Wipe,
    SourceStation, FinishesStation, LightStation, SettingStation, ViewsStation, DeliveryStation, WalkProfile], // prettier-ignore
  templateUrl: './app.html',
  styleUrl: './app.scss',
})
export class App {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly stations = STATIONS;
  protected readonly clock = localClock;
  protected readonly station = signal<Station>(stationOf(location.hash));
  /** Where light is set, and where pictures are made of it. */
  protected readonly showsConditions = computed(() => ['Light', 'Views', 'Delivery'].includes(this.station()));
  protected readonly project = toSignal(this.live.project$);
  protected readonly connected = toSignal(this.live.connected$, { initialValue: false });
  protected readonly history = toSignal(this.live.history$, { initialValue: [] });
  /** Shown for a while, then put away. */
  protected readonly refusal = toSignal(this.live.refusals$.pipe(switchMap((text) => concat(of(text), timer(8000).pipe(map(() => ''))))), {
    initialValue: '',
  });
  protected readonly linkState = toSignal(
    this.live.sources$.pipe(
      map((sources) => {
        if (sources.length === 0) return { word: 'nothing linked', state: 'none', detail: '' };
        const order = ['out-of-reach', 'stopped', 'held', 'in-step'] as const;
        const state = order.find((s) => sources.some((source) => source.state === s))!;
        const waiting = sources.reduce((sum, s) => sum + s.waiting, 0);
        const revision = Math.max(...sources.map((s) => s.revision));
        return { word: STATE_WORDS[state], state, detail: waiting > 0 ? `${String(waiting)} waiting` : `rev ${String(revision)}` };
      }),
    ),
    { initialValue: { word: '', state: 'none', detail: '' } },
  );
  /** Its profile stands in place of the day. */
  protected readonly walkIsOpen = toSignal(inject(PictureState).openWalk$.pipe(map((walk) => walk !== undefined && walk.stops.length > 1)));
  protected readonly jobs = toSignal(
    this.live.prints$.pipe(
      map(({ prints }) => {
        const open = prints.filter((p) => p.state === 'rendering' || p.state === 'waiting');
        return open.length === 0
          ? ''
          : `${String(open.length)} ${open.length === 1 ? 'print' : 'prints'}, ${String(Math.round((open.reduce((s, p) => s + p.progress, 0) / open.length) * 100))} %`;
      }),
    ),
    { initialValue: '' },
  );

  constructor() {
    // An empty project begins with its model, unless another station was asked for.
    const asked = location.hash !== '';
    this.live.sources$.pipe(skip(1), take(1)).subscribe((sources) => {
      if (sources.length === 0 && !asked) this.open('Source');
    });
    inject(PictureState).picked$.subscribe((picked) => {
      if (picked) this.open('Finishes');
    });
  }

  protected open(station: Station): void {
    this.station.set(station);
    history.replaceState(null, '', `#${station.toLowerCase()}`);
  }

  protected canUndo(): boolean {
    return this.history().some((row) => !row.undone);
  }

  protected canRedo(): boolean {
    return this.history().some((row) => row.undone);
  }

  @HostListener('document:keydown', ['$event'])
  protected keyDown(event: KeyboardEvent): void {
    const typing =
      event.target instanceof HTMLTextAreaElement ||
      (event.target instanceof HTMLInputElement && ['text', 'search', 'number'].includes(event.target.type));
    if (event.key.toLowerCase() === BEFORE_KEY && !typing && !event.ctrlKey && !event.metaKey && !event.altKey) {
      if (!event.repeat) this.scene.showsBefore$.next(true);
      return;
    }
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || typing) return;
    event.preventDefault();
    if (event.shiftKey) this.live.redo();
    else this.live.undo();
  }

  @HostListener('document:keyup', ['$event.key'])
  @HostListener('window:blur')
  protected keyUp(key?: string): void {
    if (this.scene.showsBefore$.value && (key === undefined || key.toLowerCase() === BEFORE_KEY)) this.scene.showsBefore$.next(false);
  }
}

function stationOf(hash: string): Station {
  return STATIONS.find((s) => `#${s.toLowerCase()}` === hash) ?? 'Finishes';
}
