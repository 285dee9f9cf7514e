import { openSheet, modelArrived, refined, setStage } from '../e2e/stage';
import { startServer, removeFolder } from '../server/testing/running-server';
import { cpSync } from 'node:fs';
import path from 'node:path';
import { report } from './report';

/** Server start with the demo project to listening; page load to the first picture with the model, and to the first refined one. */

const stage = await setStage();
const warm = await openSheet(stage, 'Finishes');
await modelArrived(warm);
await warm.close();
const copy = path.join(stage.folder, 'copy');
cpSync(path.join(stage.folder, 'data'), copy, { recursive: true });
let start = performance.now();
const server = await startServer(copy);
report({ name: 'start.server', value: performance.now() - start, unit: 'ms', comparedWith: 'process start to listening' });
await server.kill('SIGTERM');
removeFolder(copy);
start = performance.now();
const page = await openSheet(stage, 'Finishes', { width: 1280, height: 800 });
await modelArrived(page);
report({
  name: 'start.first-picture',
  value: performance.now() - start,
  unit: 'ms',
  comparedWith: 'page load to the model in the working picture',
});
await refined(page, 0.05);
report({
  name: 'start.first-refined',
  value: performance.now() - start,
  unit: 'ms',
  comparedWith: 'page load to the kernel’s first picture',
});
await stage.close();
