import { useEffect, useState } from 'react';
import type { Group, Object3D, WebGLRenderer } from 'three';
import { request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import { crateWorld } from '../checks/background.ts';
import { store } from '../store.ts';
import type { AssetSource } from '../three/assets3d.ts';
import { BuiltMap } from '../three/builtMap.ts';
import { freeTree } from '../three/stage3d.ts';

interface Scene {
  renderer: WebGLRenderer;
  /** Where the built map comes to stand, and what it stands in for. */
  built: Group;
  solids: Group;
  draw(): void;
}

/** Shows the map as it was built, with its lightmap, instead of the solids. Says what goes wrong, or nothing. */
export function useBuiltLight(scene: Scene | null, crateId: string, build: Build | undefined, shown: boolean, source: AssetSource | null): string {
  const [problem, setProblem] = useState('');
  useEffect(() => {
    if (!scene || !shown || !build || !source) return;
    let gone = false;
    let map: BuiltMap | null = null;
    let root: Object3D | null = null;
    const load = async () => {
      const world = crateWorld(store.getState());
      if (!world) return;
      const file = async (name: string) => (await request(`/api/crates/${crateId}/builds/${build.id}/files/maps/${build.map}/${name}`)).arrayBuffer();
      const hasLight = build.artefacts.some((artefact) => artefact.path.endsWith('/lightmap.ktx2'));
      const [glb, light] = await Promise.all([file('map.glb'), hasLight ? file('lightmap.ktx2') : undefined]);
      map = new BuiltMap(world, source, scene.renderer);
      root = await map.load(glb, light);
      if (gone) return freeTree(root);
      scene.built.add(root);
      scene.solids.visible = false;
      scene.draw();
    };
    load().catch((error: unknown) => !gone && setProblem(error instanceof Error ? error.message : String(error)));
    return () => {
      gone = true;
      if (root) {
        scene.built.remove(root);
        freeTree(root);
      }
      map?.dispose();
      scene.solids.visible = true;
      setProblem('');
      scene.draw();
    };
  }, [scene, crateId, build, shown, source]);
  return problem;
}
