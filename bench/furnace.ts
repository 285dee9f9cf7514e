/** What each shipped finish sends back in a white furnace, its base white and nothing in it that absorbs: 1 is all of it. */
import { ANGLES_DEG, furnaceTable } from '../core/kernel/furnace';
import { report } from './report';

const table = furnaceTable(16384);
console.log([''.padEnd(32), ...ANGLES_DEG.map((deg) => `${deg}°`.padStart(7)), '40° behind a pane'].join(' '));
for (const { name, shares } of table) console.log(name.padEnd(32), shares.map((share) => share.toFixed(3).padStart(7)).join(' '));
const all = table.flatMap(({ shares }) => shares);
report({ name: 'furnace.least', value: Math.min(...all), unit: '', comparedWith: 'at least 0.97' });
report({ name: 'furnace.most', value: Math.max(...all), unit: '', comparedWith: 'at most 1.00' });
