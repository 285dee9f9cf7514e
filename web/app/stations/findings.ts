import { addTo } from '../../../core/grouping';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { cameraOn } from '../../../core/camera/camera';
import { CHECKS, type Check, type Finding } from '../../../core/hygiene/finding';
import { entry } from '../../../core/project/project';
import { Findings } from '../state/findings';
import { DEFAULT_GAP_M } from '../../../core/hygiene/walls';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';

const SEVERITIES = ['fault', 'warning', 'note'] as const;

/** What is wrong with the linked models, where, and what mends it. */
@Component({
  selector: 'dp-findings',
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './findings.html',
  styleUrls: ['./station.scss', './findings.scss'],
})
export class FindingsSchedule {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly findings = inject(Findings);
  protected readonly MOST = 50;
  protected readonly state = toSignal(this.findings.state$, { requireSync: true });
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly models = toSignal(this.live.models$, { requireSync: true });
  /** Id of the finding that is open. */
  protected readonly current = signal<string | undefined>(undefined);
  /** Mended since the last check. */
  private readonly mended = signal<ReadonlySet<string>>(new Set());
  protected readonly widestGapMm = computed(() => ((entry(this.entries(), 'hygiene')?.widestGapM ?? DEFAULT_GAP_M) * 1000).toFixed(0));
  private readonly checkedGap = signal<string | undefined>(undefined);
  protected readonly stale = computed(() => {
    const gap = this.checkedGap() ?? this.widestGapMm();
    return this.state().of !== undefined && (this.state().of !== this.models() || gap !== this.widestGapMm());
  });
  protected readonly percent = computed(() => Math.round((this.state().checking ?? 0) * 100));
  private readonly isExcused = (finding: Finding) => entry(this.entries(), `excused/${finding.id}`) === true;
  protected readonly excused = computed(() => this.state().findings.filter(this.isExcused));
  private readonly open$ = computed(() => this.state().findings.filter((f) => !this.isExcused(f) && !this.mended().has(f.id)));
  protected readonly groups = computed(() => {
    const byCheck = new Map<Check, Finding[]>();
    for (const severity of SEVERITIES)
      for (const finding of this.open$())
        if (finding.severity === severity) {
          addTo(byCheck, finding.check, finding);
        }
    return [...byCheck].map(([check, findings]) => ({ check, word: CHECKS[check], findings }));
  });
  protected readonly summary = computed(() => {
    if (!this.state().of) return 'Not checked yet';
    const counts = SEVERITIES.map((s) => [this.open$().filter((f) => f.severity === s).length, s] as const).filter(([n]) => n > 0);
    return counts.length > 0 ? counts.map(([n, s]) => `${String(n)} ${s}${n === 1 ? '' : 's'}`).join(', ') : 'Nothing found';
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.point(undefined);
    });
    if (!this.state().of && this.models().size > 0) void this.check();
  }

  protected async check(): Promise<void> {
    this.mended.set(new Set());
    this.checkedGap.set(this.widestGapMm());
    this.current.set(undefined);
    this.point(undefined);
    await this.findings.check();
  }

  /** A number that makes no sense gives way to the present one. */
  protected setWidestGap(input: { value: string; valueAsNumber: number }): void {
    const metres = Math.round(input.valueAsNumber) / 1000;
    if (metres >= 0.002 && metres <= 0.5) this.live.run({ type: 'set-widest-gap', metres });
    else input.value = this.widestGapMm();
  }

  protected open(finding: Finding): void {
    const closing = this.current() === finding.id;
    this.current.set(closing ? undefined : finding.id);
    this.point(closing ? undefined : finding);
  }

  protected flyTo({ place, sizeM }: Finding): void {
    this.picture.goTo$.next({ camera: cameraOn(this.picture.camera$.value, place!, sizeM), name: 'Finding' });
  }

  protected mend(finding: Finding): void {
    this.live.run(finding.remedy!.command);
    this.mended.update((mended) => new Set(mended).add(finding.id));
    this.point(undefined);
  }

  protected excuse(finding: Finding, excused: boolean): void {
    this.live.run({ type: 'excuse-finding', finding: finding.id, excused });
    this.point(undefined);
  }

  /** Marks a finding in the picture. */
  private point(finding: Finding | undefined): void {
    this.picture.marks$.next(finding?.place ? [{ id: finding.id, place: finding.place, label: CHECKS[finding.check], current: true }] : []);
    this.picture.marked$.next(new Map((finding?.elements ?? []).map(({ source, element }) => [`${source}/${element}`, 'pointed'])));
  }
}
