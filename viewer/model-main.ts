import * as THREE from 'three';
import type { ViewerData } from '../core/viewing/viewing';
import { Building } from './model/building';
import { Interface } from './model/interface';
import { bytesOf, View } from './model/view';

/** Edges are smoothed where there is a GPU; a processor that draws has enough to do. */
function rendererHere(): THREE.WebGLRenderer {
  const wanted = { powerPreference: 'high-performance' } as const;
  try {
    return new THREE.WebGLRenderer({ ...wanted, antialias: true, failIfMajorPerformanceCaveat: true });
  } catch {
    return new THREE.WebGLRenderer({ ...wanted, antialias: false });
  }
}

/** The page tells what it shows before this script; the poster stands until the model is there. */
async function open(): Promise<void> {
  const stage = document.getElementById('stage')!;
  const data = JSON.parse(document.getElementById('viewing')!.textContent) as ViewerData;
  const say = (text: string) => {
    const said = stage.appendChild(document.createElement('p'));
    said.className = 'said';
    said.setAttribute('role', 'status');
    said.textContent = text;
    return said;
  };
  let renderer: THREE.WebGLRenderer;
  try {
    renderer = rendererHere();
  } catch {
    say(
      'This browser shows no WebGL, without which the building cannot be walked through. The picture above is what the first view shows.',
    );
    return;
  }
  const loading = say('The building is being opened …');
  // The poster is drawn before anything keeps the page from it.
  await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve, 0)));
  const building = await Building.load(bytesOf(data.model), data);
  loading.remove();
  let shown: Interface | undefined = undefined;
  const view = new View(stage, renderer, building, (x, y) => shown?.clicked(x, y));
  shown = new Interface(stage, data, view);
  const drawn = view.drawn;
  view.drawn = () => {
    drawn();
    document.querySelector('.poster')?.remove();
    view.drawn = drawn;
  };
  (globalThis as { viewing?: unknown }).viewing = { view, data };
}

open().catch((error: unknown) => {
  const said = document.createElement('p');
  said.className = 'said';
  said.textContent = `This file could not be opened: ${error instanceof Error ? error.message : 'it is damaged'}.`;
  document.getElementById('stage')!.append(said);
});
