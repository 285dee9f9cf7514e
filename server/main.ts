import { homedir } from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import type { AddressInfo } from 'node:net';
import { isDiskFull } from './disk-full';
import { openProject, StartError } from './open-project';

/** Command line of the server. Prints one JSON line when it listens. */

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4600' },
    host: { type: 'string', default: '127.0.0.1' },
    data: { type: 'string', default: 'data' },
    name: { type: 'string', default: 'Untitled' },
    /** Previews of the finishes that ship are made when they are asked for, and not beforehand. */
    'no-previews': { type: 'boolean', default: false },
    /** How many proxies stand before the server, so that whoever comes through them is told by his own address. */
    proxies: { type: 'string', default: '0' },
    watch: { type: 'string', multiple: true, default: [] },
    library: {
      type: 'string',
      default: path.join(process.env['XDG_DATA_HOME'] ?? path.join(homedir(), '.local', 'share'), 'diaphane', 'library'),
    },
  },
});

function fail(message: string): never {
  console.error(message);
  process.exit(1);
}

try {
  const port = Number(values.port);
  if (!Number.isInteger(port) || port < 0 || port > 65535) fail(`--port ${values.port} is not a port number.`);
  const project = await openProject({
    data: values.data,
    watch: values.watch,
    name: values.name,
    library: values.library,
    host: values.host,
    previewsAhead: !values['no-previews'],
    trustedProxies: Math.max(0, Math.trunc(Number(values.proxies)) || 0),
    password: process.env['DIAPHANE_PASSWORD'],
  });
  project.server.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE') fail(`Port ${values.port} is already in use; choose another with --port.`);
    fail(`The server cannot listen on ${values.host}:${values.port}: ${error.message}.`);
  });
  project.server.listen(port, values.host, () => {
    const address = project.server.address() as AddressInfo;
    console.log(JSON.stringify({ listening: `http://${values.host}:${String(address.port)}`, token: project.linkToken }));
  });
  // What nobody waits for, as how far a print is, is lost when the disk is full; the server is not.
  const survive = (error: unknown) => {
    if (isDiskFull(error)) console.error('disk full:', error);
    else fail(error instanceof Error ? (error.stack ?? error.message) : String(error));
  };
  process.on('unhandledRejection', survive);
  process.on('uncaughtException', survive);
  const end = () => {
    void project.close().then(() => process.exit(0));
  };
  process.on('SIGINT', end);
  process.on('SIGTERM', end);
  // Whoever started it so holds its input open; when that is gone, nobody would end it.
  if (process.env['DIAPHANE_END_WITH_INPUT']) process.stdin.resume().on('close', end);
} catch (error) {
  if (error instanceof StartError) fail(error.message);
  throw error;
}
