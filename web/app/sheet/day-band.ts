import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, viewChild } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { NgbInputDatepicker, type NgbDateStruct } from '@ng-bootstrap/ng-bootstrap';
import { race, Subject, throttle, timer } from 'rxjs';
import { clock } from '../../../core/project/clock';
import { addDays, addMinutes, inMonth, type LocalMoment } from '../../../core/sky/calendar';
import { dayCourse, skyPhase, TWILIGHT_DEG } from '../../../core/sky/day';
import { formatOffset } from '../../../core/sky/local-time';
import { Live } from '../state/live';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';
import { Icon } from './icon';
import { MONTHS } from './title-block';

const WIDTH = 1440;
const HEIGHT = 40;
/** Without a picture of the last hour, the next one is asked for after this. */
const LONGEST_WAIT_MS = 400;
const MONTH_NAMES = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];

/** Colour of the band by the sun's true altitude: night, twilight, the low sun's warmth, day. */
function bandColour(altitudeDeg: number): string {
  const stops: [number, [number, number, number]][] = [
    [TWILIGHT_DEG.astronomical, [28, 36, 50]], [TWILIGHT_DEG.nautical, [40, 54, 82]], [TWILIGHT_DEG.civil, [70, 96, 138]],
    [-1, [222, 160, 116]], [4, [238, 205, 160]], [12, [214, 228, 234]], [50, [228, 236, 240]],
  ]; // prettier-ignore
  const above = stops.findIndex(([at]) => altitudeDeg < at);
  if (above === 0) return `rgb(${stops[0]![1].join()})`;
  if (above < 0) return `rgb(${stops.at(-1)![1].join()})`;
  const [[a, from], [b, to]] = [stops[above - 1]!, stops[above]!];
  const t = (altitudeDeg - a) / (b - a);
  return `rgb(${from.map((c, i) => Math.round(c + (to[i]! - c) * t)).join()})`;
}

/** The day of the site as a strip: drag for the hour; month and day beside it. */
@Component({
  selector: 'dp-day-band',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [FormsModule, Icon, NgbInputDatepicker],
  templateUrl: './day-band.html',
  styleUrl: './day-band.scss',
})
export class DayBand {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly strip = viewChild.required<ElementRef<HTMLElement>>('strip');
  protected readonly moment = toSignal(this.scene.moment$);
  protected readonly months = MONTHS;
  protected readonly hours = [0, 3, 6, 9, 12, 15, 18, 21, 24];
  private readonly picture = inject(PictureState);
  private dragging = false;
  /** Where the handle was dragged to last. */
  private wanted: LocalMoment | undefined;
  private readonly dragged$ = new Subject<LocalMoment>();

  private readonly day = computed(() => {
    const m = this.moment();
    return m && { date: m.sun.date, site: m.site };
  }, { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) }); // prettier-ignore
  /** The sun's way through a day is long to compute, and the same at all its hours. */
  private readonly course = computed(() => {
    const day = this.day();
    return day && dayCourse(day.date, day.site);
  });
  protected readonly drawing = computed(() => {
    const course = this.course();
    if (!course) return undefined;
    const top = Math.max(60, ...course.altitudesDeg);
    const y = (altitude: number) => HEIGHT - 4 - (Math.max(0, altitude) / top) * (HEIGHT - 8);
    return {
      slices: course.altitudesDeg.slice(0, -1).map((a, i) => ({
        x: i * course.stepMinutes,
        width: course.stepMinutes + 1,
        colour: bandColour((a + course.altitudesDeg[i + 1]!) / 2),
      })),
      curve: course.altitudesDeg.map((a, i) => `${String(i * course.stepMinutes)},${y(a).toFixed(1)}`).join(' '),
    };
  });

  protected readonly band = computed(() => {
    const m = this.moment();
    const course = this.course();
    if (!m || !course) return undefined;
    return {
      at: (m.sun.minutes / WIDTH) * 100,
      sunrise: course.sunrise === null ? null : { at: (course.sunrise / WIDTH) * 100, text: clock(course.sunrise) },
      sunset: course.sunset === null ? null : { at: (course.sunset / WIDTH) * 100, text: clock(course.sunset) },
      never:
        course.sunrise === null && course.sunset === null
          ? course.altitudesDeg[72]! > 0
            ? 'The sun does not set today.'
            : 'The sun does not rise today.'
          : '',
      day: Number(m.sun.date.slice(8)),
      month: Number(m.sun.date.slice(5, 7)) - 1,
      monthName: MONTH_NAMES[Number(m.sun.date.slice(5, 7)) - 1]!,
      time: clock(m.sun.minutes),
      minutes: m.sun.minutes,
      place: m.site.name,
      latitude: `${Math.abs(m.site.latitudeDeg).toFixed(1)}° ${m.site.latitudeDeg < 0 ? 'S' : 'N'}`,
      offset: formatOffset(course.offsetMinutes),
      followed: m.followed,
      phase: skyPhase(m.position.trueAltitudeDeg),
    };
  });

  constructor() {
    // An hour for each picture: more would only make the page draw its words and its handle again.
    this.dragged$
      .pipe(
        throttle(() => race(this.picture.frameShown$, timer(LONGEST_WAIT_MS)), { leading: true, trailing: true }),
        takeUntilDestroyed(),
      )
      .subscribe((moment) => {
        if (this.dragging) this.scene.sunPreview$.next(moment);
      });
  }

  protected pointerDown(event: PointerEvent): void {
    if (this.moment()?.followed) return;
    this.dragging = true;
    this.strip().nativeElement.setPointerCapture(event.pointerId);
    this.show(event);
  }

  protected pointerMove(event: PointerEvent): void {
    if (this.dragging) this.show(event);
  }

  protected pointerUp(): void {
    if (this.dragging && this.wanted) this.live.run({ type: 'set-sun', ...this.wanted });
    this.dragging = false;
    this.wanted = undefined;
    this.scene.sunPreview$.next(undefined);
  }

  /** Arrow keys step a quarter of an hour, with Shift an hour; PageUp and PageDown a day. */
  protected keyDown(event: KeyboardEvent): void {
    const m = this.moment();
    if (!m || m.followed) return;
    const step = event.shiftKey ? 60 : 15;
    const minutes: Readonly<Record<string, number>> = { ArrowRight: step, ArrowLeft: -step, ArrowUp: 60, ArrowDown: -60 };
    const days: Readonly<Record<string, number>> = { PageUp: 1, PageDown: -1 };
    if (minutes[event.key] !== undefined) this.set(addMinutes(m.sun, minutes[event.key]!));
    else if (days[event.key] !== undefined) this.set({ ...m.sun, date: addDays(m.sun.date, days[event.key]!) });
    else return;
    event.preventDefault();
  }

  protected setMonth(month: number): void {
    const m = this.moment();
    if (!m || m.followed) return;
    this.set({ ...m.sun, date: inMonth(m.sun.date, month) });
  }

  /** The day that the picker shows. */
  protected readonly chosen = computed((): NgbDateStruct | null => {
    const [year, month, day] = (this.moment()?.sun.date ?? '').split('-').map(Number);
    return year && month && day ? { year, month, day } : null;
  });

  /** A day of the calendar; what is still being typed is something else. */
  protected setDay(day: NgbDateStruct | string | null): void {
    const m = this.moment();
    if (!m || day === null || typeof day === 'string') return;
    const date = [String(day.year).padStart(4, '0'), ...[day.month, day.day].map((n) => String(n).padStart(2, '0'))].join('-');
    if (date !== m.sun.date) this.set({ ...m.sun, date });
  }

  private show(event: PointerEvent): void {
    const m = this.moment();
    if (!m) return;
    const box = this.strip().nativeElement.getBoundingClientRect();
    const minutes = Math.min(WIDTH - 1, Math.max(0, Math.round((((event.clientX - box.left) / box.width) * WIDTH) / 5) * 5));
    this.wanted = { date: m.sun.date, minutes };
    this.dragged$.next(this.wanted);
  }

  private set(moment: LocalMoment): void {
    this.live.run({ type: 'set-sun', ...moment });
  }
}
