import { validateBytes } from 'gltf-validator';

/** Errors that the Khronos glTF validator finds in a GLB, as sentences. */
export async function glbErrors(glb: Uint8Array): Promise<string[]> {
  const report = (await validateBytes(glb)) as { issues: { messages: { severity: number; message: string; pointer?: string }[] } };
  return report.issues.messages.filter((m) => m.severity === 0).map((m) => `${m.pointer ?? ''}: ${m.message}`);
}
