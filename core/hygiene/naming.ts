import { addTo } from '../grouping';
import type { Model } from '../model/model';
import { recogniseName } from '../finish/recognise';
import { shownElements, groupKeyOf } from '../project/visibility';
import type { Entries } from '../project/project';
import { findingId, type Finding } from './finding';

/** Words of layers that carry drawing rather than building, in the languages that finishes are read in. */
const DRAWN = /(^|[^a-zà-ž])(anno|annotations?|dims?|dimensions?|texts?|labels?|notes?|grids?|gridlines?|ax[ei]s|hatch|hatching|defpoints|construction lines?|guides?|bema(ss|ß)ung|achs(e|en)|raster|hilfslinien?|beschriftung|cotes?|cotations?|textes?|axes|hachures?|cotas?|textos?|ejes|quote|testi|assi|maatvoering|teksten|assen)($|[^a-zà-ž])/i; // prettier-ignore
const NAMELESS = /^(no material|default|material( \d+)?|unnamed|<unnamed>|none|standard|generic)?$/i;
/** Kinds of element that are hardly ever of one material. */
const FAMILIES: readonly (readonly [string, RegExp])[] = [
  ['glazing', /^(Window|CurtainWall|Plate)/], ['walls', /^Wall/], ['roofs', /^Roof/], ['floors and slabs', /^(Slab|Covering)/], ['doors', /^Door/],
  ['furniture', /^Furni/], ['ground', /^(Site|Geographic)/], ['lights', /^Light/],
]; // prettier-ignore
const SHARED_BY = 4;

/** What names say of layers and materials, and which pictures did not come along. */
export function checkNaming(source: string, model: Model, entries: Entries): Finding[] {
  const isShown = shownElements(entries, source, model);
  const layers = new Map<string, string[]>();
  const users = new Map<string, Set<string>>();
  const carriers = new Map<string, string[]>();
  for (const element of model.elements.values()) {
    if (!isShown(element)) continue;
    addTo(layers, element.layer, element.id);
    const family = FAMILIES.find(([, pattern]) => pattern.test(element.class))?.[0];
    for (const { material } of element.parts) {
      if (family) users.set(material, (users.get(material) ?? new Set()).add(family));
      addTo(carriers, material, element.id);
    }
  }
  const found = (check: Finding['check'], severity: Finding['severity'], thing: string, words: string, elements: readonly string[], remedy: Finding['remedy'] = null): Finding => ({
    id: findingId(check, source, thing), check, severity, words, place: null, sizeM: 0, remedy,
    elements: [...new Set(elements)].map((element) => ({ source, element })),
  }); // prettier-ignore
  const out: Finding[] = (model.remarks ?? []).map((remark) => found('file', 'fault', remark, remark, []));
  for (const [layer, elements] of layers)
    if (DRAWN.test(layer))
      out.push(
        found('annotation', 'warning', layer, `Layer “${layer}” looks like drawing rather than building and is shown.`, elements, {
          label: 'Hide the layer',
          command: { type: 'show', keys: [groupKeyOf('layer', source, layer)], shown: false, name: layer.slice(0, 200) || 'Layer' },
        }),
      );
  for (const material of model.materials.values()) {
    const elements = [...new Set(carriers.get(material.id))];
    if (elements.length === 0) continue;
    const name = material.name || material.id;
    if (NAMELESS.test(material.name))
      out.push(found('no-material', 'note', material.id, `${elementsWord(elements)} without a material of a name (“${name}”).`, elements));
    const families = [...(users.get(material.id) ?? [])];
    if (families.length >= SHARED_BY && !recogniseName(material.name))
      out.push(
        found(
          'shared-material',
          'note',
          material.id,
          `“${name}” is shared by ${families.join(', ')}; one finish has to do for all.`,
          elements,
        ),
      );
    if (material.missing)
      out.push(found('missing-pictures', 'warning', material.id, `The picture ${material.missing} of “${name}” did not come with the file, or is neither PNG, JPEG nor WebP.`, elements)); // prettier-ignore
  }
  return out;
}

const elementsWord = (elements: readonly string[]) =>
  elements.length === 1 ? 'One element is' : `${String(elements.length)} elements are`;
