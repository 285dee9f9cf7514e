declare module 'three/examples/jsm/loaders/collada/ColladaParser.js' {
  export class ColladaParser {
    parse(text: string): { library: object; collada: object; asset: { unit: number; upAxis: string } } | null;
  }
}

declare module 'three/examples/jsm/loaders/collada/ColladaComposer.js' {
  import type { Group, Loader, Texture } from 'three';
  export class ColladaComposer {
    constructor(library: object, collada: object, textures: Loader<Texture>, targas: Loader<Texture>);
    compose(): { scene: Group };
  }
}
