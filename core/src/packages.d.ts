/** Packages that ship without types, as far as they are used here. */

declare module 'draco3dgltf' {
  const draco: { createDecoderModule(): Promise<object> };
  export default draco;
}
