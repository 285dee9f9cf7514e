// The demo's four kept states of light, decided over the connection that pages use.
import { once } from 'node:events';
import WebSocket from 'ws';

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
export async function keepConditions(url) {
  const socket = new WebSocket(`${url.replace(/^http/, 'ws')}/live`);
  const heard = [];
  let hear = () => undefined;
  socket.on('message', (data) => {
    heard.push(JSON.parse(String(data)));
    hear();
  });
  const said = async (wanted) => {
    for (;;) {
      const found = heard.find(wanted);
      if (found) return found;
      await new Promise((resolve) => {
        hear = resolve;
      });
    }
  };
  await once(socket, 'open');
  const { entries } = await said(({ type }) => type === 'project');
  if (entries.length === 0)
    for (const [i, command] of CONDITIONS.flatMap(commandsOf).entries()) {
      socket.send(JSON.stringify({ type: 'command', id: `demo-${i}`, command }));
      const answer = await said(({ reply }) => reply === `demo-${i}`);
      if (answer.type === 'refused') throw new Error(answer.message);
    }
  socket.close();
}
