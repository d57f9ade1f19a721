import { useEffect, useRef } from 'react';
import {
  AmbientLight,
  CapsuleGeometry,
  CylinderGeometry,
  DirectionalLight,
  GridHelper,
  Group,
  Mesh,
  MeshStandardMaterial,
  SphereGeometry,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Profile } from '@violet-crate/core/profile/schema';
import { loadModel, type AssetSource } from '../three/assets3d.ts';
import { Stage3d } from '../three/stage3d.ts';
import { themeColour } from '../theme/theme.ts';

interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
}

/** A figure of the player's size: a body to the shoulders and a head, in metres, y up. */
export function playerFigure(profile: Profile): Group {
  const m = profile.unit.metres;
  const { height, radius } = profile.player;
  const figure = new Group();
  const material = new MeshStandardMaterial({ color: themeColour('--vc-violet'), roughness: 0.8, transparent: true, opacity: 0.85 });
  const head = height * 0.13;
  const body = new Mesh(new CapsuleGeometry(radius * 0.75 * m, (height - head * 2 - radius * 1.5) * m, 4, 16), material);
  body.position.y = ((height - head * 2) / 2) * m;
  const skull = new Mesh(new SphereGeometry(head * 0.9 * m, 20, 14), material);
  skull.position.y = (height - head) * m;
  const ring = new Mesh(new CylinderGeometry(radius * m, radius * m, 0.01, 24), material);
  figure.add(body, skull, ring);
  return figure;
}

/** A model on the floor plane beside a player-sized figure; drag to turn, wheel to come nearer. */
export function ModelViewer({ source, profile, path, bounds }: { source: AssetSource; profile: Profile; path: string; bounds: Bounds }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const stage = new Stage3d(host.current!, themeColour('--vc-sunken'));
    const m = profile.unit.metres;
    const size = Math.max(bounds.max[0] - bounds.min[0], bounds.max[1] - bounds.min[1], bounds.max[2] - bounds.min[2], profile.player.height) * m;
    const key = new DirectionalLight('#fff1dd', 2.2);
    key.position.set(2, 4, 3);
    const rim = new DirectionalLight('#b79cf0', 1.1);
    rim.position.set(-3, 2, -3);
    stage.scene.add(new AmbientLight('#ffffff', 0.7), key, rim);
    const grid = new GridHelper(Math.ceil(size * 4), Math.ceil(size * 4), themeColour('--vc-violet'), themeColour('--vc-line'));
    stage.scene.add(grid);
    const figure = playerFigure(profile);
    figure.position.set((bounds.max[0] + profile.player.radius * 2.5) * m, 0, 0);
    stage.scene.add(figure);
    stage.camera.position.set(size * 0.65, size * 0.6, size * 1.15);
    const controls = new OrbitControls(stage.camera, stage.renderer.domElement);
    controls.target.set(0, size * 0.35, 0);
    controls.update();
    controls.addEventListener('change', () => stage.draw());
    let gone = false;
    void loadModel(source, path).then((model) => {
      if (gone || !model) return;
      stage.scene.add(model);
      stage.draw();
    });
    stage.draw();
    return () => {
      gone = true;
      controls.dispose();
      stage.dispose();
    };
  }, [source, profile, path, bounds]);
  return <div ref={host} className="w-100 h-100 overflow-hidden" role="img" aria-label={`Model ${path} beside a player-sized figure`} />;
}
