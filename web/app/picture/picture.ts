import { addTo } from '../../../core/grouping';
import {
  ChangeDetectionStrategy,
  ChangeDetectorRef,
  Component,
  computed,
  DestroyRef,
  ElementRef,
  inject,
  signal,
  viewChild,
  type AfterViewInit,
} from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, debounceTime, filter, map, skip, withLatestFrom } from 'rxjs';
import { cameraFrame } from '../../../core/camera/camera';
import { overviewOf } from '../../../core/camera/overview';
import { FirstLook } from './first-look';
import type { Model } from '../../../core/model/model';
import type { Camera } from '../../../core/model/schema';
import type { SceneInstance } from '../../../core/scene/scene';
import { histogramOf } from '../../../core/image/histogram';
import type { Development } from '../../../core/image/tone';
import { whiteOf } from '../../../core/image/white-balance';
import { Areas } from '../state/areas';
import { Live } from '../state/live';
import { LampSelection } from '../state/lamp-selection';
import { Controls } from '../state/controls';
import { atMostSamples, pixelRatio } from '../state/picture-limits';
import { type Grid, PictureState, type Mark, type MarkKind } from '../state/picture-state';
import { Revisions } from '../state/revisions';
import { SceneState } from '../state/scene-state';
import { Handlings } from '../state/handlings';
import { ThingLibrary } from '../state/thing-library';
import { Gamepads } from './gamepads';
import { Handles } from './handles';
import { Navigation } from './navigation';
import { RegionMarker } from '../sheet/region-marker';
import type { Survey } from '../../../core/render/survey';
import { walkOf } from '../../../core/camera/walk';
import { Refiner } from './refiner';
import type { FromRefiner, RefineView } from './refine-messages';
import { SceneOnStage } from './scene-on-stage';
import { PictureKeys } from './picture-keys';
import { Pointing } from './pointing';
import { Stage } from './stage';
import { groupKey } from './surface-groups';
import { WhoDraws } from './who-draws';
import type { DetailChoice } from './working-detail';

const DETAIL_KEY = 'working-detail';
/** How long nothing has changed before the picture is refined, and before the camera counts as still. */
const REST_MS = 130;
const STILL_MS = 120;
const FRAME_MS = 16;
const AT_WORK_EVERY_MS = 300;
/** Samples a pixel, after which the processor rests. */
const REFINE_SAMPLES = 256;
/** Time begins anew after this, before its digits run out. */
const MOTION_ROUND_S = 3600;
const across = (...shares: readonly number[]): string => shares.map((s) => `M${String(s)} 0V100M0 ${String(s)}H100`).join('');
const GRID_PATHS: Readonly<Record<Grid, string>> = {
  none: '',
  thirds: across(100 / 3, 200 / 3),
  'golden section': across(38.2, 61.8),
  middle: across(50),
  diagonals: 'M0 0L100 100M0 100L100 0',
};

/** The picture in its frame: the working picture on the GPU, and over it the kernel's as soon as the camera rests. */
@Component({
  selector: 'dp-picture',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Handles, RegionMarker],
  templateUrl: './picture.html',
  styleUrl: './picture.scss',
})
export class Picture implements AfterViewInit {
  private readonly live = inject(Live);
  private readonly sceneState = inject(SceneState);
  protected readonly state = inject(PictureState);
  private readonly areas = inject(Areas);
  private readonly revisions = inject(Revisions);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly destroyRef = inject(DestroyRef);
  private readonly changes = inject(ChangeDetectorRef);
  private readonly frame = viewChild.required<ElementRef<HTMLElement>>('frame');
  private readonly working = viewChild.required<ElementRef<HTMLCanvasElement>>('working');
  private readonly refined = viewChild.required<ElementRef<HTMLCanvasElement>>('refined');

  protected readonly size = signal({ width: 640, height: 360 });
  protected readonly refinedShown = signal(false);
  protected readonly noGpu = signal(false);
  protected readonly empty = signal(true);
  private readonly lampSelection = inject(LampSelection);
  /** Lines that help to frame, as a path over a square of 100. */
  protected readonly gridLines = toSignal(this.state.grid$.pipe(map((grid) => GRID_PATHS[grid])), { initialValue: '' });
  protected readonly handlings = inject(Handlings);
  private readonly library = inject(ThingLibrary);
  /** What was seen before, while the picture passes over to what comes. */
  protected readonly fading = signal<{ seconds: number; begun: boolean } | undefined>(undefined);
  private readonly fadingCanvas = viewChild<ElementRef<HTMLCanvasElement>>('fadingCanvas');
  protected readonly pins = signal<readonly (Mark & { x: number; y: number })[]>([]);

  private stage: Stage | undefined;
  private refinedContext: CanvasRenderingContext2D | null = null;
  private whoDraws: WhoDraws | undefined;
  private refiner: Refiner | undefined;
  private readonly firstLook = new FirstLook(this.state.camera$.value);
  private navigation = new Navigation(this.state.camera$.value, (from, way, reachM) => this.stage?.meet(from, way, reachM));
  private models: ReadonlyMap<string, Model> = new Map();
  /** With what is set about them. */
  private shownModels: ReadonlyMap<string, Model> = new Map();
  private onStage: SceneOnStage | undefined;
  private drawnSize = { width: 0, height: 0 };
  private viewNumber = 0;
  private refineTimer: ReturnType<typeof setTimeout> | undefined;
  private restTimer: ReturnType<typeof setTimeout> | undefined;
  private drawAsked = false;
  /** Nothing that was drawn has yet to come to the screen. */
  private frameSeen = true;
  private moving = false;
  private lastFrame = 0;
  private toldAtWork = 0;
  private lastMotion = 0;

  private readonly controls = inject(Controls);
  private readonly keys = new PictureKeys(this.controls, this.state, () => this.navigation);
  /** What the picture is, and how it is moved, for those who do not see it. */
  protected readonly label = computed(() => `The picture. ${this.controls.scheme().mouse.map(([how, what]) => `${how}: ${what}`).join('; ')}. Keys: ${this.controls.words('help')} lists them.`); // prettier-ignore

  protected readonly pointing = new Pointing({
    scheme: () => this.controls.scheme(),
    stage: () => this.stage,
    navigation: () => this.navigation,
    frame: () => this.frame().nativeElement,
    size: () => this.size(),
    models: () => this.shownModels,
    state: this.state,
    sceneState: this.sceneState,
    live: this.live,
    moved: (held) => {
      if (held) this.setMoving();
      this.cameraMoved();
    },
  });

  ngAfterViewInit(): void {
    this.fit();
    // Opaque, it costs least where the processor puts the page together.
    this.refinedContext = this.refined().nativeElement.getContext('2d', { alpha: false });
    try {
      this.stage = new Stage(this.working().nativeElement);
    } catch {
      this.noGpu.set(true);
    }
    if (this.stage) {
      const { stage } = this;
      stage.thingArrived = () => {
        this.askDraw();
      };
      this.library.kinds$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((kinds) => {
        stage.things.setKinds(kinds.values());
      });
    }
    this.refiner = new Refiner((message) => {
      this.hear(message);
    });
    const gamepads = new Gamepads({
      steer: (steering) => {
        this.navigation.steer(steering);
        if (this.navigation.isMoving) this.askDraw();
      },
      act: (action) => {
        this.keys.act(action);
      },
    });
    this.whoDraws = new WhoDraws({
      stage: this.stage,
      isEmpty: () => this.empty(),
      isMoving: () => this.moving,
      needsStage: () => this.needsStage,
      view: () => this.view(),
      development: () => ({ ev100: this.state.ev100$.value, white: this.state.white$.value }),
      ask: (message) => {
        this.onStage?.send();
        this.refiner?.send(message);
      },
      again: () => {
        this.askDraw();
      },
      drawn: () => {
        this.countFrame();
        if (!this.whoDraws?.kernelAlone && !this.refinedShown()) this.state.drawn$.next(this.working().nativeElement);
      },
    });
    this.onStage = new SceneOnStage({
      stage: this.stage,
      tell: (message, transfer) => this.refiner?.send(message, transfer),
      choice: () => this.state.detailChoice$.value,
      shown: (report) => {
        this.empty.set(this.onStage!.isEmpty);
        this.lookFirst();
        this.state.isAlive$.next(this.stage?.isAlive ?? false);
        this.state.detail$.next(report);
        this.showMarked();
        // What takes long to draw is seen at once as if it moved, and as it is a moment later.
        if (this.stage?.isHeavy && !this.whoDraws!.kernel) this.setMoving();
        this.changed();
      },
    });
    this.state.refined = () => (this.refinedShown() ? this.refined().nativeElement.toDataURL('image/jpeg', 0.92) : undefined);
    this.resize();
    const observer = new ResizeObserver(() => {
      this.fit();
      this.resize();
    });
    observer.observe(this.host.nativeElement);
    this.destroyRef.onDestroy(() => {
      observer.disconnect();
      gamepads.close();
      this.onStage?.close();
      this.refiner?.close();
      this.stage?.dispose();
    });
    this.follow();
  }

  /** Subscribes to everything that changes the picture. */
  private follow(): void {
    this.sceneState.changing$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.refiner!.send({ type: 'view', view: undefined });
    });
    this.sceneState.scene$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((scene) => {
      this.onStage?.take(scene);
      this.whoDraws?.setLamps(scene.lamps);
    });
    this.sceneState.sources$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((sources) => {
      this.shownModels = new Map(sources.map(({ id, model }) => [id, model]));
    });
    this.revisions.models$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((models) => {
      this.models = models;
      this.lookFirst();
    });
    this.sceneState.sky$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((input) => {
      this.refiner!.send({ type: 'sky', input });
      this.whoDraws?.setSky(input);
      this.changed();
    });
    this.sceneState.cuts$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((cuts) => {
      this.stage?.setCuts(cuts);
      this.refiner!.send({ type: 'cuts', cuts });
      this.changed();
    });
    this.sceneState.exposure$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((exposure) => {
      this.refiner!.send({ type: 'exposure', exposure });
      this.showDevelopment({
        ev100: exposure.mode === 'fixed' ? exposure.ev100 : this.state.ev100$.value,
        white: exposure.white ? whiteOf(exposure.white) : this.state.white$.value,
      });
    });
    this.sceneState.drawing$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((drawing) => {
      this.refiner!.send({ type: 'drawing', drawing });
      this.stage?.setDrawing(drawing);
      this.askDraw();
    });
    this.sceneState.grading$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((grading) => {
      this.refiner!.send({ type: 'grading', grading });
      this.stage?.setGrading(grading);
      // A picture of the kernel's is developed anew by who has made it.
      if (!this.refinedShown()) this.askDraw();
    });
    combineLatest([this.sceneState.follow$, this.sceneState.sources$])
      .pipe(
        takeUntilDestroyed(this.destroyRef),
        filter(([follow]) => follow.camera),
        map(([, sources]) => sources.find(({ model }) => model.camera)?.model.camera),
        filter((camera) => camera !== undefined),
      )
      .subscribe((camera) => {
        if (JSON.stringify(camera) !== JSON.stringify(this.navigation.camera)) this.moveTo(camera, 'Author’s camera');
      });
    this.state.goTo$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ camera, name, passing, development }) => {
      if (development) this.showDevelopment(development);
      if (passing) this.navigation.camera = camera;
      else this.navigation.goTo(camera);
      this.cameraMoved(name);
    });
    this.state.openWalk$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((walk) => {
      this.state.walkFaults$.next([]);
      this.refiner!.send({ type: 'check-walk', walk: walk && walk.stops.length > 1 ? walkOf(walk) : undefined });
    });
    this.state.surveys$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ resolve, ...asked }) => {
      this.surveys.set(++this.surveyNumber, resolve);
      this.refiner!.send({ type: 'survey', number: this.surveyNumber, ...asked });
    });
    this.state.meter$
      .pipe(withLatestFrom(this.sceneState.exposure$), takeUntilDestroyed(this.destroyRef))
      .subscribe(([walk, { metering }]) => {
        const { width, height } = this.state.size$.value;
        this.refiner!.send({ type: 'meter', walk, aspect: width / height, metering });
      });
    this.state.boxed$.pipe(withLatestFrom(this.lampSelection.lamps$), takeUntilDestroyed(this.destroyRef)).subscribe(([box, lamps]) => {
      const isIn = (at: { x: number; y: number } | undefined) =>
        at !== undefined && at.x >= box.left && at.x <= box.right && at.y >= box.top && at.y <= box.bottom;
      this.lampSelection.choose(lamps.filter(({ lamp }) => isIn(this.stage?.seenAt(lamp.position))).map(({ id }) => id));
    });
    this.state.horizonAt$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((place) => {
      if (this.stage) this.state.horizon$.next(this.stage.horizonFrom(place));
    });
    this.state.blend$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((seconds) => {
      this.blend(seconds);
    });
    this.state.proofsWanted$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ lane, proofs }) => {
      const { frame } = this.view();
      this.onStage?.send();
      this.refiner!.send({ type: 'proofs', lane, proofs: proofs.map((proof) => ({ frame, ...proof, lane })) });
    });
    this.state.levelLayer$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((job) => {
      // A draft of WebGL's has its lamps dimmed as quickly by itself.
      if (!this.whoDraws?.kernelAlone) return;
      this.onStage?.send();
      this.refiner!.send({ type: 'level-layer', ...job });
    });
    this.state.level$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((level) => {
      this.refiner!.send({ type: 'level', ...level });
    });
    this.state.frame$.pipe(takeUntilDestroyed(this.destroyRef), skip(1)).subscribe(() => {
      const before = this.size();
      this.fit();
      if (this.size() === before) return;
      this.changes.detectChanges();
      this.resize();
    });
    this.state.greyAt$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ x, y }) => {
      const box = this.frame().nativeElement.getBoundingClientRect();
      this.refiner!.send({ type: 'grey-at', x: (x - box.left) / box.width, y: (y - box.top) / box.height });
    });
    this.state.back$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.navigation.back();
      this.cameraMoved();
    });
    this.state.next$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.navigation.next();
      this.cameraMoved();
    });
    this.state.seeAll$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.seeAll();
    });
    this.state.mode$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((mode) => {
      this.navigation.setMode(mode);
      this.cameraMoved(this.state.viewName$.value);
    });
    this.state.highlighted$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((wanted) => {
      this.stage?.highlight(
        wanted === undefined
          ? []
          : (this.onStage?.scene.instances ?? []).filter((i) => `${i.source}/${i.material}` === wanted).map(groupKey),
      );
      if (wanted !== undefined) this.refinedShown.set(false);
      this.changed();
    });
    this.state.inMotion$.pipe(takeUntilDestroyed(this.destroyRef), skip(1)).subscribe(() => {
      this.lastMotion = 0;
      this.changed();
    });
    this.state.marks$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.askDraw();
    });
    this.state.marked$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(() => {
      this.showMarked();
      this.changed();
    });
    // How much a computer can draw is a matter of this browser, not of the project.
    this.state.detailChoice$.next((localStorage.getItem(DETAIL_KEY) as DetailChoice | null) ?? 'automatic');
    this.state.detailChoice$.pipe(takeUntilDestroyed(this.destroyRef), skip(1)).subscribe((choice) => {
      localStorage.setItem(DETAIL_KEY, choice);
      this.onStage?.show();
    });
    this.sceneState.preview$.pipe(takeUntilDestroyed(this.destroyRef), debounceTime(0)).subscribe(() => {
      this.changed();
    });
  }

  private showMarked(): void {
    const marked = this.state.marked$.value;
    const byKind = new Map<MarkKind, SceneInstance[]>();
    if (marked.size > 0)
      for (const instance of this.onStage?.scene.instances ?? []) {
        const kind = marked.get(`${instance.source}/${instance.element}`);
        if (!kind) continue;
        addTo(byKind, kind, instance);
      }
    this.stage?.mark([...byKind].map(([kind, instances]) => ({ kind, instances })), (hash) => this.onStage?.meshesOf(hash)); // prettier-ignore
  }

  private hear(message: FromRefiner): void {
    if (message.type === 'meshes') {
      this.areas.add(message.meshes);
      this.onStage?.addMeshes(message.meshes, message.missing);
    } else if (message.type === 'simple') this.onStage?.addSimple(message.meshes);
    else if (message.type === 'maps') {
      if (message.maps) this.stage?.materials.setMaps(message.name, message.maps);
      this.fitMaps();
      this.changed();
    } else if (message.type === 'tufts') {
      this.stage?.setBlades(message.groups);
      this.askDraw();
    } else if (message.type === 'exposures') this.state.exposures$.next(message.exposures);
    else if (message.type === 'surveyed') {
      this.surveys.get(message.number)?.(message.survey);
      this.surveys.delete(message.number);
    } else if (message.type === 'walk-faults') this.state.walkFaults$.next(message.faults);
    else if (message.type === 'level-known') this.refined().nativeElement.dataset['levelKnown'] = message.row;
    else if (message.type === 'white') this.state.pickedWhite$.next(message.white);
    else if (message.type === 'proof') this.state.proof$.next(message);
    else if (message.type === 'fault') this.state.status$.next({ state: 'fault', progress: 0, fault: message.message });
    else if (message.type === 'development') this.showDevelopment(message.development);
    else if (message.type === 'picture' && message.moving) this.showDraft(message);
    else if (message.view !== this.viewNumber || this.moving) return;
    else if (message.type === 'sampled') this.showProgress(message.samples, message.target);
    else this.showRefined(message);
  }

  /** A moving picture of the kernel's. */
  private showDraft(picture: Extract<FromRefiner, { type: 'picture' }>): void {
    this.countFrame();
    this.showRefined(picture);
  }

  private showRefined(picture: Extract<FromRefiner, { type: 'picture' }>): void {
    // What is pointed out by the stage is exposed alike.
    this.showDevelopment(picture.development);
    if (this.needsStage) return;
    const canvas = this.refined().nativeElement;
    if (canvas.width !== picture.width || canvas.height !== picture.height) [canvas.width, canvas.height] = [picture.width, picture.height];
    this.state.histogram$.next(histogramOf(picture.rgba));
    this.refinedContext!.putImageData(new ImageData(picture.rgba, picture.width, picture.height), 0, 0);
    this.refinedShown.set(true);
    canvas.dataset['samples'] = String(picture.samples);
    this.state.drawn$.next(canvas);
    this.fading.update((fading) => fading && { ...fading, begun: true });
    this.showProgress(picture.samples, picture.target);
  }

  /** Keeps what is seen over the picture until the next one comes, and then lets it fade. */
  private blend(seconds: number): void {
    if (seconds === 0 || !this.refinedShown() || matchMedia('(prefers-reduced-motion: reduce)').matches) return;
    const { width, height } = this.refined().nativeElement;
    this.fading.set({ seconds, begun: false });
    this.changes.detectChanges();
    const canvas = this.fadingCanvas()!.nativeElement;
    [canvas.width, canvas.height] = [width, height];
    canvas.getContext('2d')!.drawImage(this.refined().nativeElement, 0, 0);
  }

  private showProgress(samples: number, target: number): void {
    if (!this.refinedShown() || samples < 1) return;
    this.state.status$.next({ state: samples >= target ? 'finished' : 'refining', progress: samples / target, fault: null });
  }

  /** Who waits for what lies under places. */
  private readonly surveys = new Map<number, (survey: Survey) => void>();
  private surveyNumber = 0;

  /** Drawn again when it would be seen: the working picture must not lie too dark or in another colour under the refined one. */
  private showDevelopment({ ev100, white }: Development): void {
    if (Math.abs(ev100 - this.state.ev100$.value) > 0.005) this.state.ev100$.next(ev100);
    if (JSON.stringify(white) !== JSON.stringify(this.state.white$.value)) this.state.white$.next(white);
    this.stage?.setExposure(ev100);
    this.stage?.setWhite(white);
    if (this.whoDraws?.differs({ ev100, white })) this.askDraw();
  }

  /** Something that the picture shows is different: draw at once, refine when it rests. */
  private changed(): void {
    this.tellAtWork();
    // The kernel's last picture stays until there is another.
    if (!this.whoDraws?.kernelAlone) this.refinedShown.set(false);
    this.refined().nativeElement.dataset['samples'] = '0';
    this.whoDraws?.changed();
    this.askDraw();
    this.askRefinement();
  }

  /** Prints on the same computer make room while something moves. */
  private tellAtWork(): void {
    const now = performance.now();
    if (now - this.toldAtWork < AT_WORK_EVERY_MS || !this.live.prints$.value.prints.some(({ state }) => state === 'rendering')) return;
    this.toldAtWork = now;
    this.live.tellAtWork();
  }

  private seeAll(): void {
    const bounds = this.onStage?.bounds();
    if (bounds) this.moveTo(overviewOf(bounds, this.aspect, this.navigation.camera));
  }

  private lookFirst(): void {
    const camera = this.firstLook.at(this.navigation.camera, {
      models: this.models.values(),
      isEmpty: this.empty(),
      isWhole: () => this.onStage!.isWhole,
      bounds: () => this.onStage!.bounds(),
      aspect: this.aspect,
    });
    if (!camera) return;
    this.navigation.camera = camera;
    this.cameraMoved();
  }

  private get aspect(): number {
    const { width, height } = this.pixels();
    return width / height;
  }

  private moveTo(camera: Camera, name?: string): void {
    this.navigation.goTo(camera);
    this.cameraMoved(name);
  }

  private cameraMoved(name?: string): void {
    this.state.camera$.next(this.navigation.camera);
    if (this.state.viewName$.value !== name) this.state.viewName$.next(name);
    this.changed();
  }

  private askRefinement(): void {
    this.viewNumber++;
    clearTimeout(this.refineTimer);
    this.refiner?.send({ type: 'view', view: undefined });
    if (this.state.status$.value.state !== 'fault')
      this.state.status$.next({ state: this.empty() ? 'waiting' : 'draft', progress: 0, fault: null });
    const refine = () => {
      if (this.empty()) return;
      // The worker is told of large scenes at length; the frame that shows the change comes first.
      if (!this.frameSeen) {
        this.refineTimer = setTimeout(refine, FRAME_MS);
        return;
      }
      // A slow frame may outlast the rest: while something is held, nothing is refined.
      if (this.state.inMotion$.value) return;
      if (this.navigation.isMoving || this.pointing.isDragging) {
        this.askRefinement();
        return;
      }
      if (!this.whoDraws?.kernel && this.stage?.roundEdges()) this.askDraw();
      if (this.stage) this.onStage?.needWholeMaps(this.stage.enlargedMaps());
      this.onStage?.send();
      this.refiner?.send({ type: 'view', view: this.view() });
    };
    this.refineTimer = setTimeout(refine, REST_MS);
  }

  /** While the scene is in motion it is drawn again and again, and refined once it is stopped. */
  private advanceTime(now: number): void {
    if (!this.state.inMotion$.value) return;
    const passed = this.lastMotion ? Math.min(0.5, (now - this.lastMotion) / 1000) : 0;
    this.lastMotion = now;
    this.state.timeS$.next((this.state.timeS$.value + passed) % MOTION_ROUND_S);
    this.stage?.setTime(this.state.timeS$.value);
    this.whoDraws?.changed();
    this.askDraw();
  }

  private askDraw(): void {
    if (this.drawAsked) return;
    this.drawAsked = true;
    this.frameSeen = false;
    requestAnimationFrame((now) => {
      this.drawAsked = false;
      this.advanceTime(now);
      this.draw(now);
      // A frame is on the screen when the next but one is asked for.
      requestAnimationFrame(() => requestAnimationFrame(() => (this.frameSeen = !this.drawAsked)));
    });
  }

  private draw(now: number): void {
    if (this.navigation.isMoving) {
      this.navigation.advance(Math.min(0.25, this.lastFrame ? (now - this.lastFrame) / 1000 : 0.016));
      this.setMoving();
      this.cameraMoved();
      this.lastFrame = now;
    } else this.lastFrame = 0;
    this.stage?.setCamera(this.navigation.camera);
    this.placePins();
    this.whoDraws?.draw();
    const { dataset } = this.working().nativeElement;
    dataset['parts'] = String(this.stage?.parts ?? 0);
    dataset['missing'] = String(this.onStage?.missing ?? 0);
    dataset['eye'] = this.navigation.camera.position.map((metres) => metres.toFixed(2)).join(' ');
  }

  private countFrame(): void {
    const { dataset } = this.working().nativeElement;
    dataset['frames'] = String(Number(dataset['frames'] ?? 0) + 1);
    this.state.frameShown$.next();
  }

  /** Something is pointed out on surfaces, which the stage alone can show. */
  private get needsStage(): boolean {
    return this.state.highlighted$.value !== undefined || this.state.marked$.value.size > 0;
  }

  /** What is seen now, as the kernel is asked for it. */
  private view(): RefineView {
    const { width, height } = this.pixels();
    return {
      number: this.viewNumber,
      frame: cameraFrame(this.navigation.camera, width / height),
      width,
      height,
      samples: atMostSamples(REFINE_SAMPLES),
      timeS: this.state.timeS$.value,
    };
  }

  private placePins(): void {
    const marks = this.state.marks$.value;
    if (marks.length === 0 && this.pins().length === 0) return;
    this.pins.set(marks.flatMap((mark) => (this.stage?.seenAt(mark.place) ? [{ ...mark, ...this.stage.seenAt(mark.place)! }] : [])));
  }

  /** Lower resolution until the camera has rested for a moment. */
  private setMoving(): void {
    this.moving = true;
    clearTimeout(this.restTimer);
    this.restTimer = setTimeout(() => {
      this.moving = false;
      this.fitMaps();
      this.askDraw();
    }, STILL_MS);
  }

  private fitMaps(): void {
    this.stage?.fitMaps();
    this.state.mapMemory$.next(this.stage?.mapMemory);
  }

  private fit(): void {
    const { clientWidth, clientHeight } = this.host.nativeElement;
    const { frame$ } = this.state;
    const aspect = frame$.value.width / frame$.value.height;
    const width = Math.max(64, Math.floor(Math.min(clientWidth, clientHeight * aspect)));
    const height = Math.round(width / aspect);
    // A pixel is rounding, not another shape.
    if (width === this.size().width && Math.abs(height - this.size().height) <= 1) return;
    this.size.set({ width, height });
    this.state.size$.next({ width, height });
  }

  private pixels(): { width: number; height: number } {
    const ratio = pixelRatio();
    const { width, height } = this.size();
    return { width: Math.round(width * ratio), height: Math.round(height * ratio) };
  }

  private resize(): void {
    const { width, height } = this.pixels();
    // More room about it makes no other picture.
    if (width === this.drawnSize.width && height === this.drawnSize.height) return;
    this.drawnSize = { width, height };
    this.stage?.setSize(width, height);
    this.changed();
  }

  // --- keys --------------------------------------------------------------------------------------------------------

  protected keyDown(event: KeyboardEvent): void {
    if (this.keys.down(event)) this.askDraw();
  }

  protected keyUp(event: KeyboardEvent): void {
    this.keys.up(event);
  }

  protected blur(): void {
    this.keys.release();
  }
}
