/** Reads the name of a source material and says which finish it probably means, and why. */

export interface Guess {
  readonly finish: string;
  /** The word that was recognised, as written in the name. */
  readonly word: string;
  /** What that word was taken to mean. */
  readonly meaning: string;
}

interface Meaning {
  readonly meaning: string;
  readonly finish: string;
  /** Lower-case stems without accents in English, German, French, Spanish, Italian and Dutch; a trailing * matches any ending. */
  readonly words: readonly string[];
}

/** Narrow meanings stand before wide ones: a timber floor is a floor before it is timber. */
const MEANINGS: readonly Meaning[] = [
  { meaning: 'mirror', finish: 'mirror', words: ['mirror*', 'spiegel*', 'miroir*', 'espejo*', 'specchi*'] },
  { meaning: 'lit lamp glass', finish: 'lamp-glass', words: ['opal*', 'lens', 'diffuser', 'lampenglas', 'leuchte*', 'luminous', 'lumineux', 'luminoso'] },
  { meaning: 'timber boards', finish: 'larch-boards', words: ['cladding', 'schalung', 'larch*', 'larche*', 'laerche*', 'lariks*', 'meleze', 'alerce', 'larice', 'bardage', 'gevelbekleding'] },
  { meaning: 'zinc', finish: 'zinc', words: ['zinc*', 'zink*', 'cinc', 'zinco', 'standing seam', 'stehfalz*', 'joint debout'] },
  { meaning: 'tile', finish: 'tile', words: ['tile*', 'fliese*', 'kachel*', 'carrelage*', 'carreau*', 'azulejo*', 'baldosa*', 'piastrell*', 'tegel*', 'ceramic*'] },
  { meaning: 'brick', finish: 'brick', words: ['brick*', 'ziegel*', 'klinker*', 'backstein*', 'brique*', 'ladrillo*', 'mattone*', 'mattoni', 'baksteen*', 'metselwerk'] },
  { meaning: 'concrete', finish: 'concrete', words: ['concrete*', 'beton*', 'hormigon*', 'calcestruzzo*', 'cement*', 'zement*', 'ciment*', 'screed', 'estrich'] },
  { meaning: 'carpet', finish: 'carpet', words: ['carpet*', 'teppich*', 'moquette*', 'tapis', 'alfombra*', 'moqueta', 'tappet*', 'tapijt*', 'vloerkleed'] },
  { meaning: 'leather', finish: 'leather', words: ['leather*', 'leder*', 'cuir', 'cuero', 'cuoio', 'pelle', 'leer'] },
  { meaning: 'fabric', finish: 'wool-felt', words: ['fabric*', 'stoff*', 'textil*', 'textiel*', 'tissu*', 'tela', 'tejido*', 'tessut*', 'felt', 'filz*', 'wool', 'wolle', 'laine', 'lana', 'upholster*', 'polster*', 'feutre'] },
  { meaning: 'water', finish: 'water', words: ['water*', 'wasser*', 'gewaesser', 'eau', 'agua', 'acqua', 'sea', 'meer', 'mer', 'pond', 'teich'] },
  { meaning: 'grass', finish: 'grass', words: ['grass*', 'gras', 'rasen*', 'wiese*', 'lawn*', 'gazon*', 'herbe*', 'pelouse*', 'cesped*', 'hierba*', 'prato', 'erba', 'meadow*', 'turf'] },
  { meaning: 'soil', finish: 'soil', words: ['soil*', 'erde', 'erdreich', 'boden erde', 'terre', 'tierra*', 'suelo*', 'terra', 'terreno*', 'terrain*', 'aarde', 'grond', 'earth', 'mud', 'sand*'] },
  { meaning: 'gravel', finish: 'gravel', words: ['gravel*', 'kies*', 'schotter*', 'splitt', 'gravier*', 'gravillon*', 'grava', 'gravilla', 'ghiai*', 'grind'] },
  { meaning: 'asphalt', finish: 'asphalt', words: ['asphalt*', 'asfalt*', 'asphalte*', 'bitume*', 'tarmac*', 'asfalto*', 'road', 'strasse'] },
  { meaning: 'aluminium', finish: 'aluminium', words: ['alu', 'alumin*', 'allumin*'] },
  { meaning: 'steel', finish: 'steel', words: ['steel*', 'stahl*', 'acier*', 'acero*', 'acciai*', 'staal*', 'inox', 'edelstahl*', 'iron*', 'eisen*', 'metal*', 'metall*', 'metaal*', 'railing*', 'gelaender*'] },
  { meaning: 'glass', finish: 'glass', words: ['glass*', 'glas*', 'glaz*', 'verre*', 'vitrage*', 'vidrio*', 'cristal*', 'vetro*', 'vetri', 'beglazing*', 'verglasung*', 'window pane'] },
  { meaning: 'stone', finish: 'stone', words: ['stone*', 'stein*', 'naturstein*', 'pierre*', 'piedra*', 'pietra*', 'natuursteen', 'steen', 'granit*', 'marble*', 'marmor*', 'marbre*', 'marmol*', 'marmo', 'marmer', 'slate', 'schiefer', 'limestone*', 'sandstone*', 'paving*', 'pflaster*'] },
  { meaning: 'oak', finish: 'oak', words: ['oak*', 'eiche*', 'chene*', 'roble*', 'rovere*', 'eiken*', 'parquet*', 'parkett*', 'joinery', 'furniture', 'moebel'] },
  { meaning: 'timber', finish: 'oak', words: ['timber*', 'wood*', 'holz*', 'bois', 'madera*', 'legno*', 'hout*', 'spruce*', 'fichte*', 'pine', 'kiefer*', 'plywood*', 'sperrholz*', 'veneer*', 'furnier*', 'birch*', 'birke*', 'deck*'] },
  { meaning: 'plaster', finish: 'plaster', words: ['plaster*', 'putz*', 'verputz*', 'gips*', 'platre*', 'enduit*', 'yeso*', 'enlucido*', 'intonac*', 'gesso', 'stuc*', 'pleister*', 'stucco*', 'render', 'drywall*', 'rigips*'] },
  { meaning: 'paint', finish: 'paint', words: ['paint*', 'anstrich*', 'farbe*', 'lack*', 'peinture*', 'pintura*', 'vernic*', 'pittura*', 'verf*', 'lacquer*', 'laque*'] },
]; // prettier-ignore

function plainText(text: string): string {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().replace(/ß/g, 'ss');
}

const escape = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
const PATTERNS = MEANINGS.map((m) => ({
  ...m,
  pattern: new RegExp(
    `(?<![a-z])(?:${m.words.map((w) => (w.endsWith('*') ? `${escape(w.slice(0, -1))}[a-z]*` : escape(w))).join('|')})(?![a-z])`,
  ),
}));

/** German writes compounds: the last part names the thing ("Fensterglas", "Holzboden" stays wood by its start). */
const COMPOUND_ENDS: readonly [string, string][] = [
  ['glas', 'glass'],
  ['beton', 'concrete'],
  ['putz', 'plaster'],
  ['holz', 'timber'],
  ['stein', 'stone'],
  ['stahl', 'steel'],
  ['ziegel', 'brick'],
  ['fliesen', 'tile'],
  ['teppich', 'carpet'],
  ['farbe', 'paint'],
  ['wasser', 'water'],
  ['rasen', 'grass'],
];

/** The first 500 characters of a name are read. Returns undefined when no word is known. */
export function recogniseName(name: string): Guess | undefined {
  const text = plainText(name.slice(0, 500));
  for (const { meaning, finish, pattern } of PATTERNS) {
    const found = pattern.exec(text);
    if (found) return { finish, word: found[0], meaning };
  }
  for (const word of text.split(/[^a-z]+/))
    for (const [end, meaning] of COMPOUND_ENDS)
      if (word.length > end.length && word.endsWith(end))
        return { finish: MEANINGS.find((m) => m.meaning === meaning)!.finish, word, meaning };
  return undefined;
}
