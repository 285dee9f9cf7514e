import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, input, viewChild, type OnDestroy } from '@angular/core';
import { Chart, Filler, LinearScale, LineController, LineElement, PointElement, ScatterController, type ChartDataset } from 'chart.js';
import { clock } from '../../../core/project/clock';
import type { Moment } from '../../../core/scene/moment';
import { hoursAbove, sunPath, turningDays } from '../../../core/sky/sun-path';
import { shortDate } from '../sheet/title-block';

Chart.register(Filler, LinearScale, LineController, LineElement, PointElement, ScatterController);

type Points = { x: number; y: number }[];
const QUIET = '#a89f8e';

/** Altitude over azimuth: the sun's way on this day and on the turning days of the year, before the horizon that a place sees. */
@Component({
  selector: 'dp-sun-path-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="frame"><canvas #canvas role="img" [attr.aria-label]="words()"></canvas></div>
    <p class="quiet">{{ words() }}</p>
  `,
  styles: `
    :host {
      display: block;
    }
    .frame {
      position: relative;
      height: 170px;
    }
    p {
      margin: 2px 0 0;
      font-size: 0.75rem;
    }
  `,
})
export class SunPathChart implements OnDestroy {
  readonly moment = input.required<Moment>();
  /** Altitudes of what stands in the way, in even steps of azimuth from true north, degrees. */
  readonly horizon = input<readonly number[] | undefined>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly day = computed(() => this.moment().sun.date);
  private readonly today = computed(() => sunPath(this.day(), this.moment().site));
  private readonly others = computed(() => turningDays(Number(this.day().slice(0, 4))).map((date) => sunPath(date, this.moment().site)));
  protected readonly words = computed(() => {
    const { points } = this.today();
    const up = `${shortDate(this.day())}: sun up ${((points.length * 10) / 60).toFixed(1)} h`;
    const horizon = this.horizon();
    const range = 'grey: 21 June, 20 March, 21 December';
    return horizon ? `${up}, seen there ${hoursAbove(this.today(), horizon).toFixed(1)} h; ${range}` : `${up}; ${range}`;
  });
  private chart: { destroy(): void } | undefined;

  constructor() {
    effect(() => {
      const datasets = this.datasets();
      this.chart?.destroy();
      this.chart = this.drawn(datasets);
    });
  }

  ngOnDestroy(): void {
    this.chart?.destroy();
  }

  private datasets(): ChartDataset<'scatter', Points>[] {
    const { position, sun } = this.moment();
    const line = (data: Points, borderColor: string, borderWidth: number): ChartDataset<'scatter', Points> => ({
      data, borderColor, borderWidth, showLine: true, pointRadius: 0,
    }); // prettier-ignore
    const along = (path: ReturnType<typeof sunPath>) => path.points.map(({ azimuthDeg, altitudeDeg }) => ({ x: azimuthDeg, y: altitudeDeg })).sort((a, b) => a.x - b.x); // prettier-ignore
    const hours = this.today().points.filter(({ minutes }) => minutes % 60 === 0);
    const horizon = this.horizon();
    const step = horizon ? 360 / horizon.length : 0;
    return [
      { data: [{ x: position.azimuthDeg, y: position.altitudeDeg }], pointRadius: 5, pointBackgroundColor: '#b8492a', borderColor: '#b8492a', label: clock(sun.minutes) }, // prettier-ignore
      { data: hours.map(({ azimuthDeg, altitudeDeg }) => ({ x: azimuthDeg, y: altitudeDeg })), pointRadius: 2, pointBackgroundColor: '#22303a', borderColor: '#22303a' }, // prettier-ignore
      line(along(this.today()), '#22303a', 1.75),
      ...this.others().map((path) => line(along(path), QUIET, 1)),
      ...(horizon
        ? [{ ...line([...horizon, horizon[0]!].map((y, i) => ({ x: i * step, y })), '#5c6870', 1), fill: 'origin', backgroundColor: '#5c687066' }] // prettier-ignore
        : []),
    ];
  }

  private drawn(datasets: ChartDataset<'scatter', Points>[]): { destroy(): void } {
    const font = { family: 'Spline Sans Mono', size: 10 };
    const names = { 0: 'N', 90: 'E', 180: 'S', 270: 'W', 360: 'N' } as Record<number, string>;
    return new Chart(this.canvas().nativeElement, {
      type: 'scatter',
      data: { datasets },
      options: {
        responsive: true,
        maintainAspectRatio: false,
        animation: false,
        events: [],
        scales: {
          x: {
            min: 0,
            max: 360,
            grid: { color: '#e6e0d3' },
            ticks: { stepSize: 90, font, callback: (value) => names[Number(value)] ?? '' },
          },
          y: { min: 0, max: 90, grid: { color: '#e6e0d3' }, ticks: { stepSize: 30, font, callback: (value) => `${String(value)}°` } },
        },
      },
    });
  }
}
