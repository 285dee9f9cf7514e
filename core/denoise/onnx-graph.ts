import proto from 'onnx-proto';
import type { Tensor } from './tensor-archive';

/** The denoising network written down a second time, as an ONNX graph for a runtime that is not ours. For tests. */

const { onnx } = proto;
const FLOAT = 1;
const ints = (name: string, values: number[]) => ({ name, type: onnx.AttributeProto.AttributeType.INTS, ints: values });
const text = (name: string, value: string) => ({ name, type: onnx.AttributeProto.AttributeType.STRING, s: Buffer.from(value) });
const int = (name: string, value: number) => ({ name, type: onnx.AttributeProto.AttributeType.INT, i: value });

/** Input [1, 9, height, width], output dec_conv0 [1, 3, height, width]. */
export function onnxModel(tensors: ReadonlyMap<string, Tensor>): Uint8Array {
  const node: proto.onnx.INodeProto[] = [];
  const emit = (opType: string, input: string[], output: string, attribute: proto.onnx.IAttributeProto[] = []) => {
    node.push({ opType, input, output: [output], attribute });
    return output;
  };
  const conv = (name: string, x: string) =>
    emit('Conv', [x, `${name}.weight`, `${name}.bias`], name, [ints('kernel_shape', [3, 3]), ints('pads', [1, 1, 1, 1])]);
  const layer = (name: string, x: string) => emit('Relu', [conv(name, x)], `${name}.relu`);
  const pool = (x: string) => emit('MaxPool', [x], `${x}.pool`, [ints('kernel_shape', [2, 2]), ints('strides', [2, 2])]);
  const enlarge = (x: string) =>
    emit('Resize', [x, '', 'scales'], `${x}.large`, [
      text('mode', 'nearest'),
      text('coordinate_transformation_mode', 'asymmetric'),
      text('nearest_mode', 'floor'),
    ]);
  const first = pool(layer('enc_conv1', layer('enc_conv0', 'input')));
  const second = pool(layer('enc_conv2', first));
  const third = pool(layer('enc_conv3', second));
  let x = layer('enc_conv5b', layer('enc_conv5a', pool(layer('enc_conv4', third))));
  for (const [level, beside] of [['4', third], ['3', second], ['2', first], ['1', 'input']] as const)
    x = layer(`dec_conv${level}b`, layer(`dec_conv${level}a`, emit('Concat', [enlarge(x), beside], `${x}.joined`, [int('axis', 1)]))); // prettier-ignore
  conv('dec_conv0', x);
  const initializer = [...tensors].map(([name, { dims, data }]) => ({ name, dims: [...dims], dataType: FLOAT, rawData: bytesOf(data) }));
  initializer.push({ name: 'scales', dims: [4], dataType: FLOAT, rawData: bytesOf(new Float32Array([1, 1, 2, 2])) });
  const picture = (name: string, channels: number): proto.onnx.IValueInfoProto => ({
    name,
    type: {
      tensorType: { elemType: FLOAT, shape: { dim: [{ dimValue: 1 }, { dimValue: channels }, { dimParam: 'h' }, { dimParam: 'w' }] } },
    },
  });
  const graph = { name: 'denoiser', node, initializer, input: [picture('input', 9)], output: [picture('dec_conv0', 3)] };
  const model = onnx.ModelProto.create({ irVersion: 8, opsetImport: [{ domain: '', version: 13 }], graph });
  return onnx.ModelProto.encode(model).finish();
}

const bytesOf = (data: Float32Array): Uint8Array => new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
