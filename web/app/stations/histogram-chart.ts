import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, input, viewChild, type OnDestroy } from '@angular/core';
import { Chart, Filler, LinearScale, LineController, LineElement, PointElement } from 'chart.js';
import { HISTOGRAM_BINS, type Histogram } from '../../../core/image/histogram';

Chart.register(Filler, LinearScale, LineController, LineElement, PointElement);

const CURVES = [
  ['red', '#b8492a'],
  ['green', '#2f746c'],
  ['blue', '#3d5a99'],
] as const;

/** How many pixels are how bright: luma as a surface, the three channels as lines. */
@Component({
  selector: 'dp-histogram-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="frame"><canvas #canvas role="img" [attr.aria-label]="words()"></canvas></div>
    <p class="quiet mono">{{ words() }}</p>
  `,
  styles: `
    :host {
      display: block;
    }
    .frame {
      position: relative;
      height: 84px;
      border: 1px solid var(--rule);
      border-width: 0 0 1px;
    }
    p {
      margin: 2px 0 0;
      font-size: 0.75rem;
    }
  `,
})
export class HistogramChart implements OnDestroy {
  readonly histogram = input.required<Histogram>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly words = computed(() => {
    const { black, white } = this.histogram();
    return `black ${percent(black)}, white ${percent(white)}`;
  });
  private chart: Chart<'line', { x: number; y: number }[]> | undefined;

  constructor() {
    effect(() => {
      const histogram = this.histogram();
      // One bin that towers over all others, as a plain sky does, leaves the rest to be seen.
      const top = [...histogram.luma].sort((a, b) => b - a)[1]! * 1.15;
      const points = (curve: Float32Array) => [...curve].map((y, x) => ({ x, y: Math.sqrt(Math.min(1, y / top)) }));
      const curves = [points(histogram.luma), ...CURVES.map(([channel]) => points(histogram[channel]))];
      this.chart ??= this.drawn(curves);
      this.chart.data.datasets.forEach((dataset, i) => (dataset.data = curves[i]!));
      this.chart.update('none');
    });
  }

  ngOnDestroy(): void {
    this.chart?.destroy();
  }

  private drawn(curves: { x: number; y: number }[][]): Chart<'line', { x: number; y: number }[]> {
    const colours = [['#5c687055', '#5c6870'], ...CURVES.map(([, colour]) => ['transparent', colour])] as const;
    return new Chart(this.canvas().nativeElement, {
      type: 'line',
      data: {
        datasets: colours.map(([backgroundColor, borderColor], i) => ({
          data: curves[i]!, backgroundColor, borderColor, borderWidth: 1, pointRadius: 0, fill: i === 0, tension: 0.2,
        })),
      },
      options: {
        responsive: true,
        maintainAspectRatio: false,
        animation: false,
        events: [],
        scales: { x: { type: 'linear', display: false, min: 0, max: HISTOGRAM_BINS - 1 }, y: { display: false, min: 0, max: 1 } },
      },
    }); // prettier-ignore
  }
}

const percent = (share: number): string => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`;
