import { WalkProfile } from './sheet/walk-profile';
import { ChangeDetectionStrategy, Component, computed, HostListener, inject, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NgbDropdownModule, NgbToast, NgbTooltipModule } from '@ng-bootstrap/ng-bootstrap';
import { concat, map, of, skip, switchMap, take, timer } from 'rxjs';
import { Picture } from './picture/picture';
import { ConditionSlips } from './sheet/condition-slips';
import { ContactSheet } from './sheet/contact-sheet';
import { DayBand } from './sheet/day-band';
import { Finder } from './sheet/finder';
import { HelpSheet } from './sheet/help-sheet';
import { Icon } from './sheet/icon';
import { localClock } from './sheet/local-clock';
import { TitleBlock } from './sheet/title-block';
import { ViewBesidePicture } from './sheet/view-beside-picture';
import { ViewTools } from './sheet/view-tools';
import { Wipe } from './sheet/wipe';
import { Controls } from './state/controls';
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
const STATE_WORDS = { 'in-step': 'in step', held: 'held', stopped: 'stopped', 'out-of-reach': 'out of reach' } as const;

/** The sheet: stations above, the open schedule at the left, the picture on its mat, the day band below. */
@Component({
  selector: 'dp-app',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    NgbDropdownModule, NgbToast, NgbTooltipModule, ConditionSlips, ContactSheet, Picture, DayBand, Finder, HelpSheet, Icon, TitleBlock, ViewBesidePicture, ViewTools, Wipe,
    SourceStation, FinishesStation, LightStation, SettingStation, ViewsStation, DeliveryStation, WalkProfile], // prettier-ignore
  templateUrl: './app.html',
  styleUrl: './app.scss',
})
export class App {
  protected readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly controls = inject(Controls);
  private readonly finder = viewChild.required(Finder);
  private readonly help = viewChild.required(HelpSheet);
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

  /** That is held to see the picture before the last step, by its place on the keyboard. */
  private beforeKey = '';

  protected open(station: Station): void {
    this.station.set(station);
    history.replaceState(null, '', `#${station.toLowerCase()}`);
  }

  protected openNamed(name: string): void {
    this.open(name as Station);
  }

  /** A refusal that has been read. */
  protected putAway(): void {
    this.live.refusals$.next('');
  }

  protected find(): void {
    void this.finder().show();
  }

  protected showHelp(): void {
    this.help().show();
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
    const action = this.controls.actionOf(event);
    // Into a field go signs, and it has its own undo.
    if (typing && !(action === 'find' && (event.ctrlKey || event.metaKey || event.altKey))) return;
    if (action === 'before') this.showBefore(event);
    else if (action === 'help') this.showHelp();
    else if (action === 'find') this.find();
    else if (action === 'undo') this.live.undo();
    else if (action === 'redo') this.live.redo();
    else return;
    event.preventDefault();
  }

  private showBefore({ code, repeat }: KeyboardEvent): void {
    if (repeat) return;
    this.beforeKey = code;
    this.scene.showsBefore$.next(true);
  }

  @HostListener('document:keyup', ['$event.code'])
  @HostListener('window:blur')
  protected keyUp(code?: string): void {
    if (this.scene.showsBefore$.value && (code === undefined || code === this.beforeKey)) this.scene.showsBefore$.next(false);
  }
}

function stationOf(hash: string): Station {
  return STATIONS.find((s) => `#${s.toLowerCase()}` === hash) ?? 'Finishes';
}
