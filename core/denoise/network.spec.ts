import { env, InferenceSession, Tensor as OnnxTensor } from 'onnxruntime-web';
import { describe, expect, it } from 'vitest';
import { NETWORK_INPUTS, NETWORK_OUTPUTS } from '../kernel/assembly/layout';
import { KernelPool } from '../kernel/pool';
import { SceneMemory } from '../kernel/scene-memory';
import { kernelModule } from '../kernel/testing';
import { random } from '../random';
import { Network } from './network';
import { onnxModel } from './onnx-graph';
import { readTensors } from './tensor-archive';
import { shippedWeights } from './testing';

env.wasm.numThreads = 1;
const noThreads = () => {
  throw new Error('no threads here');
};

describe('the denoising network', () => {
  it.each([
    ['small', 96, 64],
    ['full', 64, 96],
    ['full', 32, 32],
  ] as const)('with its %s weights gives what onnxruntime gives, on %i x %i pixels', async (weights, width, height) => {
    const tensors = readTensors(await shippedWeights(weights));
    const pixels = width * height;
    const next = random(7);
    const input = Float32Array.from({ length: pixels * 9 }, next);

    const session = await InferenceSession.create(onnxModel(tensors));
    const theirs = (await session.run({ input: new OnnxTensor('float32', input, [1, 9, height, width]) }))['dec_conv0']!
      .data as Float32Array;

    const scene = new SceneMemory(kernelModule());
    const network = new Network(scene.memory, tensors);
    const working = scene.memory.allocate(network.bytesFor(width, height));
    const asked = network.tasks(width, height, working, scene.memory.allocate(Network.layersBytes));
    const read = scene.memory.floats(asked.input, pixels * NETWORK_INPUTS);
    for (let i = 0; i < pixels; i++) for (let c = 0; c < 9; c++) read[i * NETWORK_INPUTS + c] = input[c * pixels + i]!;
    await new KernelPool(scene, noThreads, 0).run(...asked.tasks);
    const ours = scene.memory.floats(asked.output, pixels * NETWORK_OUTPUTS);

    let worst = 0;
    let brightest = 0;
    for (let i = 0; i < pixels; i++)
      for (let c = 0; c < 3; c++) {
        // What is negative means black, and is cut off by us.
        const wanted = Math.max(0, theirs[c * pixels + i]!);
        brightest = Math.max(brightest, wanted);
        worst = Math.max(worst, Math.abs(ours[i * NETWORK_OUTPUTS + c]! - wanted));
      }
    expect(brightest).toBeGreaterThan(0.2);
    expect(worst).toBeLessThan(1e-4);
  });

  it('refuses what are no weights', () => {
    expect(() => readTensors(new Uint8Array(100))).toThrow('no weights');
  });
});
