import { inject, Injectable } from '@angular/core';
import { firstValueFrom } from 'rxjs';
import { conditionsOf } from '../../../core/project/conditions';
import type { Model } from '../../../core/model/model';
import { allFinishes, chooseFinish, entry, type Entries } from '../../../core/project/project';
import { STYLES } from '../../../core/project/style';
import { Controls, SCHEME_IDS, SCHEMES } from './controls';
import { LampSelection } from './lamp-selection';
import { Live } from './live';
import { PictureState } from './picture-state';
import { PictureWindow } from './picture-window';
import { ScheduleState } from './schedule-state';
import { SceneState } from './scene-state';
import { SettingState } from './setting-state';
import { ViewGoer, viewsOf } from './views';

/** Something that can be found by its name and then is done or shown. */
export interface Findable {
  kind: 'station' | 'action' | 'view' | 'condition' | 'style' | 'section' | 'finish' | 'lamp' | 'thing' | 'element';
  name: string;
  /** Beside the name. */
  about?: string;
  act: () => void;
}

const STATIONS = ['Source', 'Finishes', 'Light', 'Setting', 'Views', 'Delivery'];
/** Of a large model nobody looks through all elements by name. */
const MOST_ELEMENTS = 200_000;

/** All that there is to be found, as it is now. */
@Injectable({ providedIn: 'root' })
export class Findables {
  private readonly live = inject(Live);
  private readonly controls = inject(Controls);
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private readonly schedule = inject(ScheduleState);
  private readonly lamps = inject(LampSelection);
  private readonly setting = inject(SettingState);
  private readonly goer = inject(ViewGoer);
  private readonly window = inject(PictureWindow);

  async all(open: (station: string) => void): Promise<Findable[]> {
    const entries = this.live.entries$.value;
    const sources = await firstValueFrom(this.scene.sources$);
    const lamps = await firstValueFrom(this.lamps.lamps$);
    const { picture, live } = this;
    const found: Findable[] = STATIONS.map((name, i) => ({ kind: 'station', name, about: `station ${String(i + 1)}`, act: () => { open(name); } })); // prettier-ignore
    const action = (name: string, about: string, act: () => void) => found.push({ kind: 'action', name, about, act });
    action('Undo', this.controls.words('undo'), () => { live.undo(); }); // prettier-ignore
    action('Redo', this.controls.words('redo'), () => { live.redo(); }); // prettier-ignore
    action('Look at all of the building', this.controls.words('all'), () => { picture.seeAll$.next(); }); // prettier-ignore
    action('Back to where the camera was', this.controls.words('lastPlace'), () => { picture.back$.next(); }); // prettier-ignore
    action('On to the next place', this.controls.words('nextPlace'), () => { picture.next$.next(); }); // prettier-ignore
    for (const [mode, words] of [['orbit', 'Orbit about the building'], ['walk', 'Walk'], ['fly', 'Fly']] as const) action(words, '', () => { picture.mode$.next(mode); }); // prettier-ignore
    for (const id of SCHEME_IDS) action(SCHEMES[id].name, 'mouse and keys', () => { this.controls.choose(id); }); // prettier-ignore
    action('Picture in a window of its own', 'for a second screen', () => { void this.window.open(false); }); // prettier-ignore
    action('Show no sections', '', () => { picture.sections$.next([]); }); // prettier-ignore
    for (const view of viewsOf(sources, entries))
      found.push({ kind: 'view', name: view.name, act: () => { this.goer.go(view); } }); // prettier-ignore
    for (const { id, name } of conditionsOf(entries)) found.push({ kind: 'condition', name, act: () => { live.run({ type: 'recall-condition', id }); } }); // prettier-ignore
    for (const [name, style] of Object.entries(STYLES)) found.push({ kind: 'style', name, act: () => { live.run({ type: 'set-style', style }); } }); // prettier-ignore
    for (const key of entries.keys()) {
      if (!key.startsWith('section/')) continue;
      const id = key.slice('section/'.length);
      found.push({ kind: 'section', name: entry(entries, `section/${id}`)!.name, act: () => { picture.sections$.next([id]); } }); // prettier-ignore
    }
    this.addFinishes(found, open, sources, entries);
    for (const { id, lamp } of lamps) found.push({ kind: 'lamp', name: lamp.name, act: () => { open('Light'); this.lamps.choose([id]); } }); // prettier-ignore
    for (const { id, model } of sources)
      for (const luminaire of model.luminaires.values())
        found.push({ kind: 'lamp', name: luminaire.name || luminaire.id, about: luminaire.circuit, act: () => { open('Light'); this.pointOut(id, luminaire.element ?? luminaire.id); } }); // prettier-ignore
    for (const key of entries.keys()) {
      if (!key.startsWith('set/')) continue;
      const id = key.slice('set/'.length);
      found.push({ kind: 'thing', name: entry(entries, `set/${id}`)!.name, act: () => { open('Setting'); this.setting.show(id); } }); // prettier-ignore
    }
    let elements = 0;
    for (const { id, model } of sources)
      for (const element of model.elements.values()) {
        if (++elements > MOST_ELEMENTS) return found;
        found.push({ kind: 'element', name: element.name || element.id, about: element.class, act: () => { this.pointOut(id, element.id); } }); // prettier-ignore
      }
    return found;
  }

  /** Those that are worn, by the rows that wear them; all others by the library. */
  private addFinishes(found: Findable[], open: (station: string) => void, sources: readonly { id: string; model: Model }[], entries: Entries): void {
    const worn = new Map<string, string>();
    for (const { id, model } of sources) for (const material of model.materials.values()) {
      const { finish } = chooseFinish(entries, id, material);
      if (finish && !worn.has(finish.id)) worn.set(finish.id, `${id}/${material.id}`);
    }
    for (const finish of allFinishes(entries)) {
      const row = worn.get(finish.id);
      found.push({ kind: 'finish', name: finish.name, about: row ? 'in the schedule' : 'in the library', act: () => { open('Finishes'); if (row) this.schedule.opened.set(row); } });
    }
  } // prettier-ignore

  private pointOut(source: string, element: string): void {
    this.picture.marked$.next(new Map([[`${source}/${element}`, 'pointed']]));
    setTimeout(() => {
      this.picture.marked$.next(new Map());
    }, POINTED_MS);
  }
}

/** So long an element stands out that was found by its name. */
const POINTED_MS = 4000;

/** Those whose names hold all words that are typed; what begins with them first, stations and actions before elements. */
export function matching(all: readonly Findable[], typed: string, most: number): Findable[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return all.filter(({ kind }) => kind !== 'element').slice(0, most);
  const rank = ({ name }: Findable): number => (name.toLowerCase().startsWith(words.join(' ')) ? 0 : name.toLowerCase().includes(words.join(' ')) ? 1 : 2); // prettier-ignore
  return all
    .map((one, i) => ({ one, i }))
    .filter(({ one }) => {
      const text = `${one.name} ${one.kind} ${one.about ?? ''}`.toLowerCase();
      return words.every((word) => text.includes(word));
    })
    .sort((a, b) => rank(a.one) - rank(b.one) || a.i - b.i)
    .slice(0, most)
    .map(({ one }) => one);
}
