/** The others who play in a run: a figure each, with a name over it. */

import { CapsuleGeometry, Group, Mesh, MeshBasicMaterial } from 'three';
import type { Profile } from '@violet-crate/core/profile/schema';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { ShownPlayer } from '@violet-crate/core/trial/apart';
import { freeTree } from '../three/stage3d.ts';
import { nameSprite } from './overlays.ts';
import { nameOfPlayer } from './sharedRun.ts';

/** Colours of figures, in the order in which players came. */
const COLOURS = ['#b794f6', '#e5b45c', '#7fd6c2', '#f0a3d8', '#9fd46b', '#ff9d6b', '#8fb8ff', '#ffffff'];

export class Figures {
  readonly group = new Group();
  private readonly shown = new Map<number, Group>();

  constructor(private readonly profile: Profile) {}

  update(players: readonly ShownPlayer[]): void {
    const here = new Set(players.map(({ index }) => index));
    for (const [index, figure] of this.shown)
      if (!here.has(index)) {
        this.group.remove(figure);
        freeTree(figure);
        this.shown.delete(index);
      }
    for (const player of players) {
      let figure = this.shown.get(player.index);
      if (!figure) {
        figure = this.make(player);
        this.shown.set(player.index, figure);
        this.group.add(figure);
      }
      const { metres } = this.profile.unit;
      figure.position.set(...toGltf(player.feet, metres));
      // Turned about the up axis, as it looks.
      figure.rotation.y = Math.atan2(player.look[1], player.look[0]);
      const { height, crouchHeight = height } = this.profile.player;
      figure.scale.y = player.crouching ? crouchHeight / height : 1;
    }
  }

  private make(player: ShownPlayer): Group {
    const { unit, player: size } = this.profile;
    const [radius, height] = [size.radius * unit.metres, size.height * unit.metres];
    const colour = COLOURS[player.index % COLOURS.length];
    const figure = new Group();
    const body = new Mesh(new CapsuleGeometry(radius, Math.max(0.01, height - 2 * radius), 6, 14), new MeshBasicMaterial({ color: colour }));
    body.position.y = height / 2;
    // Which way it looks.
    const face = new Mesh(new CapsuleGeometry(radius * 0.25, radius * 0.6, 4, 8), new MeshBasicMaterial({ color: '#221530' }));
    face.rotation.z = Math.PI / 2;
    face.position.set(radius * 0.8, size.eyeHeight * unit.metres, 0);
    const name = nameSprite(String(player.index), nameOfPlayer(player));
    name.position.y = height * 1.15;
    figure.add(body, face, name);
    return figure;
  }
}
