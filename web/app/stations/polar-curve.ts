import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, input, viewChild, type OnDestroy } from '@angular/core';
import { Chart, LinearScale, LineController, LineElement, PointElement, ScatterController, type ChartDataset } from 'chart.js';
import { factsOf, intensityAt, type PhotometricWeb } from '../../../core/lamp/photometric-web';

Chart.register(LinearScale, LineController, LineElement, PointElement, ScatterController);

const RAD = Math.PI / 180;
const RINGS = 4;
const RULE = '#cfc8ba';
type Points = { x: number; y: number }[];

/** A luminaire's intensity in its two main planes as its data sheet draws it: the axis downwards, cd per 1000 lm. */
@Component({
  selector: 'dp-polar-curve',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #canvas role="img" [attr.aria-label]="words()" width="200" height="200"></canvas>
    <p class="quiet"><span class="c0">C0–C180</span> <span class="c90">C90–C270</span><br />Rings of {{ ring() }} cd/klm</p>
  `,
  styles: `
    :host {
      display: block;
      width: 200px;
    }
    p {
      margin: 2px 0 0;
      font-size: 0.75rem;
      text-align: center;
    }
    .c0 {
      border-bottom: 2px solid var(--ink);
    }
    .c90 {
      border-bottom: 2px dashed var(--now);
    }
  `,
})
export class PolarCurve implements OnDestroy {
  readonly web = input.required<PhotometricWeb>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly facts = computed(() => factsOf(this.web()));
  private readonly perKlm = computed(() => 1000 / this.facts().fluxLm);
  /** Of a round length, so that the curve fills the rings. */
  protected readonly ring = computed(() => roundUp((this.facts().maximumCd * this.perKlm()) / RINGS));
  protected readonly words = computed(() => {
    const { beamDeg, maximumAt } = this.facts();
    return `Polar curve: beam ${beamDeg.join('° and ')}°, brightest ${String(maximumAt.gamma)}° from the axis`;
  });
  private chart: { destroy(): void } | undefined;

  constructor() {
    effect(() => {
      const datasets = [...this.rings(), this.curve(0, '#22303a', []), this.curve(90, '#b8492a', [4, 3])];
      const reach = this.ring() * RINGS * 1.04;
      this.chart?.destroy();
      this.chart = new Chart(this.canvas().nativeElement, {
        type: 'scatter',
        data: { datasets },
        options: {
          responsive: false,
          animation: false,
          events: [],
          scales: { x: { display: false, min: -reach, max: reach }, y: { display: false, min: -reach, max: reach } },
        },
      });
    });
  }

  ngOnDestroy(): void {
    this.chart?.destroy();
  }

  private curve(c: number, borderColor: string, borderDash: number[]): ChartDataset<'scatter', Points> {
    const at = (side: number, sign: number, gamma: number) => {
      const cd = intensityAt(this.web(), side, gamma) * this.perKlm();
      return { x: sign * cd * Math.sin(gamma * RAD), y: -cd * Math.cos(gamma * RAD) };
    };
    const gammas = Array.from({ length: 91 }, (_, i) => i * 2);
    const data = [...gammas.toReversed().map((g) => at(c + 180, -1, g)), ...gammas.map((g) => at(c, 1, g))];
    return line(data, borderColor, 1.75, borderDash);
  }

  private rings(): ChartDataset<'scatter', Points>[] {
    const outer = this.ring() * RINGS;
    const round = (r: number) => Array.from({ length: 73 }, (_, i) => ({ x: r * Math.cos(i * 5 * RAD), y: r * Math.sin(i * 5 * RAD) }));
    const ray = (a: number) => [{ x: 0, y: 0 }, { x: outer * Math.cos(a * RAD), y: outer * Math.sin(a * RAD) }]; // prettier-ignore
    return [
      ...Array.from({ length: RINGS }, (_, i) => line(round(this.ring() * (i + 1)), RULE, 1)),
      ...Array.from({ length: 12 }, (_, i) => line(ray(i * 30), RULE, 1)),
    ];
  }
}

const line = (data: Points, borderColor: string, borderWidth: number, borderDash: number[] = []): ChartDataset<'scatter', Points> => ({
  data, borderColor, borderWidth, borderDash, showLine: true, pointRadius: 0,
}); // prettier-ignore

function roundUp(value: number): number {
  const ten = 10 ** Math.floor(Math.log10(Math.max(value, 1e-6)));
  return [1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10].map((step) => step * ten).find((step) => step >= value)!;
}
