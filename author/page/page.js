// The simulated author's page: buttons and sliders that post edits.
const $ = (id) => document.getElementById(id);
let state;

async function post(path, body) {
  const response = await fetch(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body ?? {}) });
  if (path === '/edit' && response.ok) show(await response.json());
}
const edit = (body) => post('/edit', body);

function options(select, list) {
  const chosen = select.value;
  const same = select.options.length === list.length && list.every(([value, text], i) => select.options[i].value === value && select.options[i].text === text);
  if (same) return;
  select.replaceChildren(...list.map(([value, text]) => new Option(text, value)));
  if (list.some(([value]) => value === chosen)) select.value = chosen;
}

const hex = (rgb) => '#' + rgb.map((c) => Math.round(c * 255).toString(16).padStart(2, '0')).join('');
const rgbOf = (text) => [1, 3, 5].map((i) => parseInt(text.slice(i, i + 2), 16) / 255);

function show(next) {
  state = next;
  const p = state.parameters;
  $('status').textContent = { linked: 'in step', connecting: 'out of reach, trying again', stopped: 'stopped by Diaphane', refused: 'refused', off: 'off' }[state.link];
  $('message').textContent = state.message;
  $('revision').textContent = state.revision;
  $('elements').textContent = state.elements;
  const idle = (id) => document.activeElement !== $(id);
  if (idle('wall')) $('wall').value = p.wallShiftM;
  $('wall-out').textContent = `${p.wallShiftM.toFixed(1)} m`;
  $('form').value = p.roofForm;
  if (idle('pitch')) $('pitch').value = p.roofPitchDeg;
  $('pitch-out').textContent = `${p.roofPitchDeg}°`;
  options($('opening'), p.openings.map((w, i) => [String(i), `N${i + 2}${w === null ? ' (deleted)' : ''}`]));
  const width = p.openings[Number($('opening').value || 0)];
  if (idle('opening-width')) $('opening-width').value = width ?? 1.5;
  $('opening-out').textContent = width === null ? 'none' : `${width.toFixed(1)} m`;
  options($('column'), state.columns.map((id) => [id, id]));
  $('phase').value = p.phase;
  options($('material'), state.materials.map((m) => [m.id, m.name]));
  const material = state.materials.find((m) => m.id === $('material').value);
  if (material && idle('colour')) $('colour').value = hex(material.colour);
  if (material && idle('name')) $('name').value = material.name;
  options($('luminaire'), state.luminaires.map((l) => [l.id, l.name]));
  const luminaire = state.luminaires.find((l) => l.id === $('luminaire').value);
  if (luminaire && idle('dim')) $('dim').value = luminaire.dim;
  $('dim-out').textContent = luminaire ? `${Math.round(luminaire.dim * 100)} %` : '';
  options($('camera'), state.cameras.map((c) => [c.id, c.name]));
  if (idle('time')) $('time').value = p.time;
  const boxes = state.layers.map((layer) => {
    const label = document.createElement('label');
    const box = document.createElement('input');
    box.type = 'checkbox';
    box.checked = !p.hiddenLayers.includes(layer);
    box.onchange = () => edit({ edit: 'layer', layer, visible: box.checked });
    label.append(box, ` ${layer}`);
    return label;
  });
  if (!$('layers').contains(document.activeElement)) $('layers').replaceChildren(...boxes);
}

$('undo').onclick = () => edit({ edit: 'undo' });
$('start-over').onclick = () => edit({ edit: 'start-over' });
$('session').onclick = () => post('/session');
$('wall').oninput = () => edit({ edit: 'move-wall', metres: Number($('wall').value) });
$('form').onchange = () => edit({ edit: 'roof-form', form: $('form').value });
$('pitch').oninput = () => edit({ edit: 'roof-pitch', degrees: Number($('pitch').value) });
$('opening').onchange = () => show(state);
$('opening-width').oninput = () => edit({ edit: 'widen-opening', index: Number($('opening').value), metres: Number($('opening-width').value) });
$('opening-delete').onclick = () => edit({ edit: 'delete-opening', index: Number($('opening').value) });
$('column-delete').onclick = () => edit({ edit: 'delete-column', column: $('column').value });
$('phase').onchange = () => edit({ edit: 'phase', phase: $('phase').value });
$('material').onchange = () => show(state);
$('colour').onchange = () => edit({ edit: 'recolour', material: $('material').value, colour: rgbOf($('colour').value) });
$('rename').onclick = () => edit({ edit: 'rename', material: $('material').value, name: $('name').value });
$('luminaire').onchange = () => show(state);
$('dim').oninput = () => edit({ edit: 'dim', luminaire: $('luminaire').value, dim: Number($('dim').value) });
$('luminaire-add').onclick = () => edit({ edit: 'add-luminaire' });
$('luminaire-remove').onclick = () => edit({ edit: 'remove-luminaire', luminaire: $('luminaire').value });
$('camera').onchange = () => {
  const { position, target, focalMm } = state.cameras.find((c) => c.id === $('camera').value);
  edit({ edit: 'camera', position, target, focalMm });
};
$('time').onchange = () => edit({ edit: 'time', time: $('time').value.slice(0, 16) });

async function refresh() {
  try {
    show(await (await fetch('/state')).json());
  } catch {
    $('status').textContent = 'the author process has ended';
  }
  setTimeout(refresh, 1000);
}
refresh();
