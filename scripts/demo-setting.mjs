// What is set about the demo's building, kept as it was set by hand in the planting plan.
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { decide } from './demo-decisions.mjs';

/** For the model's own few trees. */
const STAND_INS = [
  { by: 'name', pattern: 'birch', kind: 'birch', state: 'autumn', size: 1, turnDeg: 0 },
  { by: 'name', pattern: 'pine', kind: 'pine', size: 1, turnDeg: 0 },
];
const read = () => JSON.parse(readFileSync(fileURLToPath(new URL('../docs/demo/setting.json', import.meta.url)), 'utf8'));

/** Sets it in a project in which nothing is set yet. */
export async function keepSetting(url) {
  const { demoGround } = await import('../dist/demo-ground.mjs');
  const { lands, meshes } = demoGround();
  for (const body of meshes) {
    const kept = await fetch(`${url}/api/meshes`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body });
    if (!kept.ok) throw new Error(`The demo's ground was refused: ${await kept.text()}`);
  }
  await decide(
    url,
    [
      { type: 'lay-land', lands, sets: [], name: 'A meadow on the bank' },
      { type: 'set-things', sets: read(), name: 'Marram Landing in October' },
      { type: 'set-stand-ins', standIns: STAND_INS, name: 'Birches and pines in colour' },
    ],
    (entries) => !entries.some(([key]) => key.startsWith('set/')),
  );
}
