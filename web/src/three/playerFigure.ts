import { CapsuleGeometry, CylinderGeometry, Group, Mesh, MeshStandardMaterial, SphereGeometry } from 'three';
import type { Profile } from '@violet-crate/core/profile/schema';
import { themeColour } from '../theme/theme.ts';

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
