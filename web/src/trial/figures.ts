/** The others who play in a run: a figure each, with a name over it. */

import { Color, ConeGeometry, Group, IcosahedronGeometry, Mesh, MeshBasicMaterial, OctahedronGeometry } from 'three';
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
    const colour = new Color(COLOURS[player.index % COLOURS.length]);
    const paint = (share: number) => new MeshBasicMaterial({ color: colour.clone().multiplyScalar(share) });
    const figure = new Group();
    // Somebody in a cloak with a lantern, which says which way they look.
    const cloak = new Mesh(new ConeGeometry(radius, height * 0.82, 12, 1, true), paint(0.55));
    cloak.position.y = height * 0.41;
    const head = new Mesh(new IcosahedronGeometry(radius * 0.5, 1), paint(0.8));
    head.position.y = size.eyeHeight * unit.metres;
    const lantern = new Mesh(new OctahedronGeometry(radius * 0.28), paint(1.2));
    lantern.position.set(radius * 0.95, height * 0.5, radius * 0.4);
    const name = nameSprite(String(player.index), nameOfPlayer(player));
    name.position.y = height * 1.15;
    figure.add(cloak, head, lantern, name);
    return figure;
  }
}
