import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { luminaireSchedule, type CircuitRow, type LampRow, type TypeRow } from '../../../core/project/lighting';
import { entry } from '../../../core/project/project';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { LevelLayers } from '../state/level-layers';
import { LampSelection } from '../state/lamp-selection';
import { PhotometricFiles } from '../state/photometric-files';
import { SceneState } from '../state/scene-state';
import { LampPlacingStrip } from './lamp-placing-strip';
import { PhotometryCard } from './photometry-card';
import { PlacedLampCard } from './placed-lamp-card';

type Row = CircuitRow | TypeRow | LampRow;
const NEW_CIRCUIT = '+';
const kelvins = (lamps: readonly LampRow[]): string => {
  const all = [...new Set(lamps.map(({ lamp }) => lamp.colourTemperatureK))].sort((a, b) => a - b);
  return all.length > 1 ? 'mixed' : String(Math.round(all[0] ?? 0));
};

/** Circuits, in them types, in these lamps: each is switched and dimmed for itself, and levels multiply. */
@Component({
  selector: 'dp-luminaire-schedule',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [LampPlacingStrip, NgTemplateOutlet, PhotometryCard, PlacedLampCard],
  templateUrl: './luminaire-schedule.html',
  styleUrls: ['./station.scss', './luminaire-schedule.scss'],
})
export class LuminaireSchedule {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  protected readonly layers = inject(LevelLayers);
  private readonly files = inject(PhotometricFiles);
  private readonly picture = inject(PictureState);
  private readonly entries = toSignal(this.scene.entries$, { initialValue: new Map<string, unknown>() });
  private readonly sources = toSignal(this.live.sources$, { initialValue: [] });
  private readonly placed = toSignal(this.scene.sources$, { initialValue: [] });
  protected readonly circuits = computed(() => luminaireSchedule(this.placed(), this.entries()));
  /** Circuits are open until they are closed; types are closed until they are opened. */
  private readonly turned = signal<ReadonlySet<string>>(new Set());
  /** A type may stand on several circuits; its card is open on one. */
  protected readonly card = signal<string | undefined>(undefined);
  protected readonly over = signal<string | undefined>(undefined);
  protected readonly alone = computed(() => entry(this.entries(), 'solo') ?? []);
  private readonly selection = inject(LampSelection);
  private readonly chosenIds = toSignal(this.selection.chosen$, { requireSync: true });
  /** Chosen by a box in the picture, rather than by a card. */
  protected readonly boxed = computed(() => {
    const ids = this.chosenIds();
    return this.card() === undefined
      ? this.circuits()
          .flatMap(lampsOf)
          .flatMap(({ placed }) => (placed && ids.has(placed.id) ? [placed] : []))
      : [];
  });
  private dragged: LampRow[] = [];
  /** Lamps are marked in the picture. */
  protected readonly marked = signal(false);

  constructor() {
    effect(() => {
      const open = this.card();
      const lamps = this.circuits().flatMap(lampsOf);
      const shown = lamps.filter((row) => this.marked() || row.key === open);
      this.picture.marks$.next(
        shown.map((row) => ({ id: row.key, place: row.lamp.position, label: row.key === open ? row.name : '', current: row.key === open })),
      );
    });
    // A box chooses anew; no card stays open beside it.
    this.picture.boxed$.pipe(takeUntilDestroyed()).subscribe(() => {
      this.card.set(undefined);
    });
    effect(() => {
      this.selection.showsAll$.next(this.marked());
    });
    // Lamps whose card is open are chosen in the picture, those of a type all together.
    effect(() => {
      const open = this.card();
      const row =
        open &&
        this.circuits()
          .flatMap((circuit) => [
            ...circuit.types.map((type) => ({ key: circuit.key + type.key, row: type })),
            ...lampsOf(circuit).map((lamp) => ({ key: lamp.key, row: lamp })),
          ])
          .find(({ key }) => key === open)?.row;
      if (row) this.selection.choose((this.placedOf(row) ?? []).map(({ id }) => id));
    });
    inject(DestroyRef).onDestroy(() => {
      this.selection.choose([]);
      this.selection.showsAll$.next(false);
      this.picture.marks$.next([]);
      this.scene.lightingPreview$.next(undefined);
    });
  }

  /** Where its lamps come from: the names of their sources, or placed here. */
  protected readonly originOf = (row: Row): string => {
    const name = ({ source, placed }: LampRow) =>
      placed ? 'placed here' : (this.sources().find(({ id }) => id === source)?.name ?? source);
    return [...new Set(lampsOf(row).map(name))].join(', ');
  };
  protected readonly severalOrigins = computed(() => new Set(this.circuits().map((row) => this.originOf(row))).size > 1);
  protected readonly isOpen = (row: Row, at: string): boolean => this.turned().has(at + row.key) !== 'types' in row;
  protected readonly lumens = (row: Row): string => Math.round(row.litLm).toLocaleString('en').replaceAll(',', '\u2009');
  protected readonly percent = (level: number): string => (level * 100).toFixed(0);
  protected readonly kelvin = (row: Row): string => kelvins(lampsOf(row));

  /** Of rows in which all lamps were placed here. */
  protected readonly placedOf = (row: Row) => {
    const placed = lampsOf(row).flatMap((lamp) => lamp.placed ?? []);
    return placed.length === lampsOf(row).length ? placed : undefined;
  };

  protected unchoose(): void {
    this.selection.choose([]);
  }

  protected turn(row: Row, at: string): void {
    this.turned.update((turned) => {
      const after = new Set(turned);
      if (!after.delete(at + row.key)) after.add(at + row.key);
      return after;
    });
  }

  protected openCard(row: Row, at: string): void {
    this.selection.choose([]);
    this.card.update((open) => (open === at + row.key ? undefined : at + row.key));
  }

  /** While it is dragged it is only seen; once let go it is a step. */
  protected slide(row: Row, level: number): void {
    this.layers.show(row.key, level);
    this.scene.lightingPreview$.next(new Map([[row.key, { ...entry(this.live.entries$.value, row.key), level }]]));
  }

  protected setLevel(row: Row, level: number | null): void {
    const modelLevels = 'lamp' in row ? { [row.key]: row.lamp.dim } : {};
    this.live.run({ type: 'dim-lamps', keys: [row.key], level, modelLevels, name: nameOf(row) });
    this.scene.lightingPreview$.next(undefined);
    if (level !== null) void this.layers.prepare({ ...row, level });
  }

  protected switch(row: Row): void {
    this.live.run({ type: 'switch-lamps', keys: [row.key], on: row.off, name: nameOf(row) });
  }

  /** Lights a row alone, also beside others that are; once more takes it back. */
  protected lightAlone(row: Row, beside: boolean): void {
    const others = this.alone().filter((key) => key !== row.key);
    const keys = row.alone ? (beside ? others : []) : [...(beside ? others : []), row.key];
    this.live.run({ type: 'light-alone', keys, name: nameOf(row) });
  }

  protected lightAll(): void {
    this.live.run({ type: 'light-alone', keys: [], name: 'all' });
  }

  /** On a row: A lit alone, O on or off, M marks of all lamps in the picture. */
  protected key(event: KeyboardEvent, row: Row): void {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).matches('input[type=text], select')) return;
    const key = event.key.toLowerCase();
    if (key === 'a') this.lightAlone(row, event.shiftKey);
    else if (key === 'm') this.marked.set(!this.marked());
    else if (key === 'o') this.switch(row);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  protected drag(event: DragEvent, row: Row): void {
    this.dragged = lampsOf(row);
    event.dataTransfer?.setData('text/plain', nameOf(row));
  }

  protected drop(event: DragEvent, { circuit }: CircuitRow): void {
    event.preventDefault();
    this.over.set(undefined);
    const moved = this.dragged.filter((row) => row.circuit !== circuit);
    this.dragged = [];
    if (moved.length > 0) this.putOn(moved, circuit);
  }

  protected dragOver(event: DragEvent, { circuit }: CircuitRow): void {
    if (this.dragged.length === 0 && !event.dataTransfer?.types.includes('Files')) return;
    event.preventDefault();
    if (this.dragged.length > 0) this.over.set(circuit);
  }

  /** A photometric file onto a row: what is in it has it from now on. */
  protected dropFile(event: DragEvent, row: Row): void {
    const file = event.dataTransfer?.files[0];
    if (!file) return;
    event.preventDefault();
    event.stopPropagation();
    void this.files.bring(file, 'types' in row ? lampsOf(row).map(({ key }) => key) : [row.key]);
  }

  protected about({ source, lamp, photometry, placed, isSet }: LampRow): string {
    const flux = `${lamp.fluxLm.toFixed(0)} lm`;
    if (placed) return `Placed here; ${flux}`;
    const spread = photometry ? photometry.name : lamp.beamDeg >= 359 ? 'all round' : `${lamp.beamDeg.toFixed(0)}° beam`;
    const from = this.sources().find(({ id }) => id === source)?.name ?? source;
    return `${from}; ${flux}, ${spread}; ${isSet ? `the model has ${this.percent(lamp.dim)} %` : 'as in the model'}`;
  }

  /** By the menu of a lamp's card, or a type's. */
  protected choose(row: Row, choice: string): void {
    if (choice === NEW_CIRCUIT) this.putOn(lampsOf(row), this.freshCircuit());
    else this.putOn(lampsOf(row), choice);
  }

  protected rename(row: CircuitRow, name: string): void {
    if (name.trim() && name.trim() !== row.name)
      this.live.run({ type: 'name-circuit', circuit: row.circuit, name: name.trim().slice(0, 200) });
  }

  private putOn(rows: readonly LampRow[], circuit: string): void {
    const name = rows.length === 1 ? rows[0]!.name : `${String(rows.length)} lamps`;
    this.live.run({ type: 'put-on-circuit', lamps: rows.map(({ source, lamp }) => ({ source, lamp: lamp.id })), circuit, name });
  }

  private freshCircuit(): string {
    for (let i = 1; ; i++) {
      const name = `Circuit ${String(i)}`;
      if (!this.circuits().some((row) => row.circuit === name || row.name === name)) return name;
    }
  }
}

const lampsOf = (row: Row): LampRow[] => ('lamp' in row ? [row] : 'types' in row ? row.types.flatMap(({ lamps }) => lamps) : row.lamps);
const nameOf = (row: Row): string => row.name.slice(0, 100);
