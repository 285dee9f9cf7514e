// The demo's four kept states of light, decided over the connection that pages use.
import { decide } from './demo-decisions.mjs';

const FOG = { fog: { visibilityM: 320, heightM: 30, colour: [0.98, 0.98, 1] } };
const CLOUDS = { clouds: { cover: 0.3, heightM: 1600, seed: 4, windMs: 6 } };
/** In the order of their slips; the project is left in the last. */
const CONDITIONS = [
  { id: 'morning-mist', name: 'Morning mist', date: '2026-10-16', minutes: 515, weather: FOG },
  { id: 'dusk', name: 'Dusk with lamps', date: '2026-10-16', minutes: 1115, weather: {} },
  { id: 'winter-night', name: 'Winter night', date: '2026-12-22', minutes: 1200, weather: {} },
  { id: 'october-afternoon', name: 'October afternoon', date: '2026-10-16', minutes: 960, weather: CLOUDS },
];

const commandsOf = ({ id, name, date, minutes, weather }) => [
  { type: 'set-sun', date, minutes },
  { type: 'set-weather', weather, name },
  { type: 'keep-condition', id, name, parts: ['sun', 'lamps', 'exposure', 'development'] },
];

/** Keeps the demo's conditions in a project in which nothing has been decided yet. */
export const keepConditions = (url) => decide(url, CONDITIONS.flatMap(commandsOf), (entries) => entries.length === 0);
