// Decides things in a running project over the connection that pages use.
import { once } from 'node:events';
import WebSocket from 'ws';

/** Sends commands one after the other, if the project's entries are as wanted. */
export async function decide(url, commands, isWanted) {
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
  if (isWanted(entries))
    for (const [i, command] of commands.entries()) {
      socket.send(JSON.stringify({ type: 'command', id: `demo-${i}`, command }));
      const answer = await said(({ reply }) => reply === `demo-${i}`);
      if (answer.type === 'refused') throw new Error(answer.message);
    }
  socket.close();
}
