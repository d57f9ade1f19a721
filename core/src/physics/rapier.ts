/** Rapier, loaded once: its build that computes the same to the bit on every machine, with its WebAssembly inside. */

export type Rapier = typeof import('@dimforge/rapier3d-deterministic-compat');

let loading: Promise<Rapier> | null = null;

export const loadRapier = (): Promise<Rapier> =>
  (loading ??= import('@dimforge/rapier3d-deterministic-compat').then(async (rapier) => {
    await rapier.init();
    return rapier;
  }));
