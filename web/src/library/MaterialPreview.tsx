import { useEffect, useRef, useState } from 'react';
import {
  AmbientLight,
  BoxGeometry,
  DirectionalLight,
  Mesh,
  MeshStandardMaterial,
  PlaneGeometry,
  PointLight,
  RepeatWrapping,
  SphereGeometry,
  type BufferGeometry,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import type { Profile } from '@violet-crate/core/profile/schema';
import { themeColour } from '../theme/theme.ts';
import { standardMaterial } from '../three/assets3d.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { Stage3d } from '../three/stage3d.ts';

/** Metres of the things it is shown on. */
const EDGE = 2;
const SHAPES: Record<string, () => BufferGeometry> = {
  block: () => new BoxGeometry(EDGE, EDGE, EDGE),
  sphere: () => new SphereGeometry(EDGE / 2, 48, 32),
  plane: () => new PlaneGeometry(EDGE * 2, EDGE * 2).rotateX(-Math.PI / 2),
};

export function MaterialPreview({ material, source, profile }: { material: CrateMaterial; source: AssetSource; profile: Profile }) {
  const host = useRef<HTMLDivElement>(null);
  const [shape, setShape] = useState('block');
  const [stage, setStage] = useState<{ stage: Stage3d; mesh: Mesh } | null>(null);

  useEffect(() => {
    const made = new Stage3d(host.current!, themeColour('--vc-sunken'));
    const key = new DirectionalLight('#fff1dd', 2.4);
    key.position.set(2, 3, 3);
    const lamp = new PointLight('#ffd9a0', 6);
    lamp.position.set(-2, 1.5, 1.5);
    const mesh = new Mesh(SHAPES.block(), new MeshStandardMaterial());
    made.scene.add(new AmbientLight('#d9ccf5', 0.9), key, lamp, mesh);
    made.camera.position.set(2.2, 1.6, 2.6);
    const controls = new OrbitControls(made.camera, made.renderer.domElement);
    controls.addEventListener('change', () => made.draw());
    controls.update();
    setStage({ stage: made, mesh });
    return () => {
      setStage(null);
      controls.dispose();
      made.dispose();
    };
  }, []);

  useEffect(() => {
    if (!stage) return;
    const { mesh } = stage;
    mesh.geometry.dispose();
    mesh.geometry = SHAPES[shape]();
    const old = mesh.material as MeshStandardMaterial;
    const next = standardMaterial(source, material, profile, () => stage.stage.draw());
    // Shapes are two metres wide, so a repeat shows at the size it has in a map.
    const repeats = ((shape === 'plane' ? EDGE * 2 : EDGE) / profile.unit.metres / material.unitsPerRepeat) * (shape === 'sphere' ? 1.5 : 1);
    for (const map of [next.map, next.normalMap, next.roughnessMap, next.metalnessMap, next.emissiveMap]) {
      if (!map) continue;
      map.wrapS = map.wrapT = RepeatWrapping;
      map.repeat.set(repeats, repeats);
    }
    mesh.material = next;
    old.dispose();
    stage.stage.draw();
  }, [stage, shape, material, source, profile]);

  return (
    <div className="viewer panel">
      <div ref={host} className="stage short" role="img" aria-label={`Material ${material.name} on a ${shape}`} />
      <div className="viewer-bar">
        <div className="btn-group btn-group-sm" role="group" aria-label="Shown on">
          {Object.keys(SHAPES).map((id) => (
            <button key={id} className="btn btn-quiet" aria-pressed={shape === id} onClick={() => setShape(id)}>
              {id}
            </button>
          ))}
        </div>
      </div>
    </div>
  );
}
