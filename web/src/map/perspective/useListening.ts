import { useEffect } from 'react';
import { expandMap } from '@violet-crate/core/map/prefab';
import { fileUrl, type AssetSource } from '../../api/assetUrl.ts';
import { request } from '../../api/http.ts';
import { MapSound } from '../../sound/mapSound.ts';
import { useSoundCells } from '../../sound/useSoundCells.ts';
import { store, useAppSelector } from '../../state/store.ts';
import { selectWorld } from '../../state/world.ts';
import { useDocument } from '../editing/useDocument.ts';
import type { PerspectiveScene } from './perspectiveScene.ts';

/** Milliseconds between two looks at where the camera is. */
const EVERY = 100;

/** Lets one hear the sound beds of the map where the camera is. */
export function useListening(scene: PerspectiveScene | null, source: AssetSource | null): void {
  const { map, profile, view } = useDocument();
  const world = useAppSelector(selectWorld);
  const cells = useSoundCells(view.listen);
  const mood = map.settings.moods?.find(({ name }) => name === view.mood) ?? map.settings.moods?.[0] ?? null;
  useEffect(() => {
    if (!scene || !source || !world || !view.listen) return;
    const whole = expandMap(map, profile);
    const context = new AudioContext();
    const sound = new MapSound(context, async (path) => (await request(fileUrl(source, path))).arrayBuffer(), world, whole, cells);
    const timer = setInterval(() => {
      const { position, target } = scene.place();
      const away = Math.hypot(...target.map((v, k) => v - position[k])) || 1;
      const look = target.map((v, k) => (v - position[k]) / away) as [number, number, number];
      sound.update(context.currentTime, position, look, mood, Number(store.getState().preferences.values.volume) / 100);
    }, EVERY);
    return () => {
      clearInterval(timer);
      sound.dispose();
      void context.close().catch(() => {});
    };
  }, [scene, source, world, map, profile, cells, mood, view.listen]);
}
