/** The package ships no types; only its start is called here, the rest by the glTF parser. */
declare module 'draco3dgltf' {
  const draco3d: { createDecoderModule(): Promise<unknown> };
  export default draco3d;
}
