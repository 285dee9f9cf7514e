import type { ViewerData } from '../../core/viewing/viewing';
import { clock } from '../../core/project/clock';
import { Headset } from './headset';
import { Remarks } from './remarks';
import { lookUniforms } from './surface-light';
import type { View } from './view';

type Tool = 'look' | 'measure' | 'remark';
type Place = [number, number, number];

function make<K extends keyof HTMLElementTagNameMap>(tag: K, name: string, text = ''): HTMLElementTagNameMap[K] {
  const element = document.createElement(tag);
  element.className = name;
  element.textContent = text;
  return element;
}

function button(text: string, act: () => void): HTMLButtonElement {
  const element = make('button', '', text);
  element.type = 'button';
  element.addEventListener('click', act);
  return element;
}

/** What stands about the picture: looks, the day, views, measuring and remarks. */
export class Interface {
  private tool: Tool = 'look';
  private readonly measured: Place[] = [];
  private readonly over = make('div', 'over');
  private readonly told = make('p', 'told');
  private readonly lookButtons: HTMLButtonElement[] = [];
  private readonly toolButtons = new Map<Tool, HTMLButtonElement>();
  private readonly remarks: Remarks;
  private readonly remarkList = make('ol', 'remarks');
  private hours: number[] = [];

  constructor(
    stage: HTMLElement,
    private readonly data: ViewerData,
    private readonly view: View,
  ) {
    this.remarks = new Remarks(data.project, data.made, data.comments, () => { this.listRemarks(); }); // prettier-ignore
    this.told.setAttribute('role', 'status');
    const bar = make('div', 'bar');
    bar.append(make('strong', 'title', `${data.project} · ${data.name}`));
    this.addLooks(bar);
    this.addViews(bar);
    const tools = make('span', 'tools');
    for (const [tool, words] of [['measure', 'Measure'], ['remark', 'Remark']] as const) {
      const one = button(words, () => { this.choose(this.tool === tool ? 'look' : tool); });
      this.toolButtons.set(tool, one);
      tools.append(one);
    } // prettier-ignore
    bar.append(tools);
    void Headset.isThere().then((isThere) => {
      if (isThere) tools.append(button('Headset', () => { this.wear(); })); // prettier-ignore
    });
    const side = make('div', 'side');
    side.append(this.remarkList);
    stage.append(this.over, side, this.told, bar);
    view.drawn = () => { this.place(); }; // prettier-ignore
    this.listRemarks();
    this.show(0);
    this.goTo(0);
  }

  private headset: Headset | undefined;

  private wear(): void {
    this.headset ??= new Headset(this.view);
    this.headset.enter().catch(() => (this.told.textContent = 'The headset did not start; see whether it is connected.'));
  }

  /** Hours of a day become one slider; other looks a button each. */
  private addLooks(bar: HTMLElement): void {
    const { looks } = this.data;
    const isHour = ({ name }: { name: string }) => /^\d\d:\d\d$/.test(name);
    this.hours = looks.flatMap((look, i) => (isHour(look) ? [i] : [])).sort((a, b) => looks[a]!.minutes - looks[b]!.minutes);
    const group = make('span', 'looks');
    if (this.hours.length > 1) {
      const label = make('label', 'day', 'Time of day ');
      const slider = make('input', '');
      Object.assign(slider, { type: 'range', min: '0', max: String(this.hours.length - 1), step: '1', value: '0' });
      slider.addEventListener('input', () => { this.show(this.hours[Number(slider.value)]!); }); // prettier-ignore
      label.append(slider, make('span', 'hour', ''));
      group.append(label);
    }
    for (const [i, look] of looks.entries()) {
      const one = button(look.name, () => { this.show(i); }); // prettier-ignore
      this.lookButtons.push(one);
      if ((this.hours.length < 2 || !isHour(look)) && looks.length > 1) group.append(one);
    }
    bar.append(group);
  }

  private addViews(bar: HTMLElement): void {
    const select = make('select', 'views');
    select.setAttribute('aria-label', 'Views');
    for (const [i, { name }] of this.data.views.entries()) select.append(new Option(name, String(i)));
    select.addEventListener('change', () => {
      this.goTo(Number(select.value));
      this.view.canvas.focus();
    });
    bar.append(select);
  }

  private seenFrom = 0;

  /** A view, exposed as it is by itself. */
  private goTo(number: number): void {
    this.seenFrom = number;
    const { camera, exposures, state } = this.data.views[number]!;
    lookUniforms.exposure.value = exposures[this.view.building.shownLook] ?? 1;
    this.view.building.showState(state);
    this.view.eye.take(camera);
  }

  show(number: number): void {
    const look = this.data.looks[number]!;
    this.view.show(look, number);
    lookUniforms.exposure.value = this.data.views[this.seenFrom]!.exposures[number] ?? 1;
    this.view.canvas.dataset['look'] = look.name;
    for (const [i, one] of this.lookButtons.entries()) one.setAttribute('aria-pressed', String(i === number));
    const hour = document.querySelector('.hour');
    if (hour) hour.textContent = clock(look.minutes);
  }

  choose(tool: Tool): void {
    this.tool = tool;
    this.measured.length = 0;
    this.told.textContent = { look: '', measure: 'Click two places.', remark: 'Click what you have to say something of.' }[tool];
    for (const [name, one] of this.toolButtons) one.setAttribute('aria-pressed', String(name === tool));
    this.view.ask();
  }

  /** A place of the page was clicked. */
  clicked(x: number, y: number): void {
    if (this.tool === 'look') return;
    const met = this.view.meetAt(x, y);
    if (!met) return;
    const place: Place = [met.place.x, met.place.y, met.place.z];
    if (this.tool === 'measure') this.measure(place);
    else this.write(place);
  }

  private measure(place: Place): void {
    if (this.measured.length === 2) this.measured.length = 0;
    this.measured.push(place);
    const [a, b] = this.measured;
    if (a && b) {
      const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      this.told.textContent = `${Math.hypot(dx, dy, dz).toFixed(2)} m: ${Math.hypot(dx, dy).toFixed(2)} m level, ${Math.abs(dz).toFixed(2)} m in height`;
    } else this.told.textContent = 'Click the second place.';
    this.view.ask();
  }

  private write(place: Place): void {
    const form = make('form', 'write');
    const text = make('textarea', '');
    text.placeholder = 'What is to be said here';
    text.required = true;
    text.maxLength = 4000;
    const author = make('input', '');
    author.placeholder = 'Your name';
    author.maxLength = 200;
    const keep = button('Keep', () => undefined);
    keep.type = 'submit';
    form.append(text, author, keep, button('Leave it', () => { form.remove(); })); // prettier-ignore
    form.addEventListener('submit', (event) => {
      event.preventDefault();
      const { asCamera } = this.view;
      void this.remarks.add(text.value.trim(), author.value.trim(), place, asCamera, this.data.looks[this.view.building.shownLook]!.name);
      form.remove();
      this.choose('look');
    });
    this.over.parentElement!.append(form);
    text.focus();
  }

  private listRemarks(): void {
    const { list } = this.remarks;
    this.remarkList.replaceChildren(
      ...list.map((remark) => {
        const row = make('li', '');
        row.append(button(remark.text, () => { this.view.eye.take(remark.camera); })); // prettier-ignore
        row.append(make('small', '', [remark.author, remark.status].filter(Boolean).join(', ')));
        return row;
      }),
    );
    if (list.length > 0 && !this.data.comments) this.remarkList.append(button('Save the remarks as a file', () => { this.remarks.save(this.data.name); })); // prettier-ignore
    this.view.ask();
  }

  /** Pins and the line that is measured, where they are seen now. */
  private place(): void {
    const pins = this.remarks.list.flatMap(({ place }, i) => {
      const seen = place && this.view.seenAt(place);
      if (!seen) return [];
      const pin = make('span', 'pin', String(i + 1));
      pin.style.translate = `${String(seen.x)}px ${String(seen.y)}px`;
      return [pin];
    });
    const ends = this.measured.flatMap((end) => this.view.seenAt(end) ?? []);
    const line = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
    if (ends.length > 0) line.innerHTML = `<polyline points="${ends.map(({ x, y }) => `${String(x)},${String(y)}`).join(' ')}"/>${ends.map(({ x, y }) => `<circle cx="${String(x)}" cy="${String(y)}" r="4"/>`).join('')}`; // prettier-ignore
    this.over.replaceChildren(line, ...pins);
  }
}
