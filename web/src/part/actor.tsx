import { Link } from 'react-router';
import { CylinderGeometry, Group, Mesh, MeshLambertMaterial, SphereGeometry } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { boxSize } from '@violet-crate/core/math/box3';
import { recordsPath } from '@violet-crate/core/table/document';
import { talkPath } from '@violet-crate/core/talk/document';
import { classOf } from '@violet-crate/core/profile/schema';
import { useAppSelector } from '../state/store.ts';
import type { Look, PartFieldsProps } from './look.ts';

/** Rows and conversations are edited on their own page. */
function Fields({ object, profile }: PartFieldsProps) {
  const crateId = useAppSelector((s) => s.crate.view?.id);
  const files = (classOf(profile, object.class)?.properties ?? []).flatMap(({ id, type, label, table }) => {
    const value = object.properties[id];
    if (typeof value !== 'string' || value === '') return [];
    return type === 'record' && table ? [[label, recordsPath(table)]] : type === 'talk' ? [[label, talkPath(value)]] : [];
  });
  if (files.length === 0) return null;
  return (
    <p className="small mb-1">
      {files.map(([label, path]) => (
        <Link key={path} className="me-3" to={`/crates/${crateId}/data?file=${encodeURIComponent(path)}`}>
          Edit “{label}”
        </Link>
      ))}
    </p>
  );
}

/** Head and shoulders. */
export const actor: Look = {
  colour: 'clear',
  points: true,
  inGame: true,
  Fields,
  mark(context, angle) {
    context.rotate((angle ?? -Math.PI / 2) + Math.PI / 2);
    context.beginPath();
    context.ellipse(0, 1, 7.5, 4, 0, 0, Math.PI * 2);
    context.stroke();
    context.beginPath();
    context.arc(0, 0, 3.4, 0, Math.PI * 2);
    context.fill();
  },
  trialBody({ box, item, metres, brightness }) {
    const [width, , height] = boxSize(box).map((v) => v * metres);
    const { position, turn } = item.object;
    const light = brightness([position[0], position[1], position[2] + boxSize(box)[2] / 2]);
    const made = (colour: number) => {
      const material = new MeshLambertMaterial({ color: colour });
      material.emissive.setRGB(...light).multiply(material.color);
      return material;
    };
    const node = new Group();
    const coat = new Mesh(new CylinderGeometry(width * 0.24, width * 0.46, height * 0.78, 12), made(0x6b5a86));
    coat.position.y = height * 0.39;
    const head = new Mesh(new SphereGeometry(height * 0.1, 14, 10), made(0xd9b9a0));
    head.position.y = height * 0.88;
    // A lantern at the side says which way somebody looks.
    const lamp = new Mesh(new SphereGeometry(height * 0.045, 8, 6), made(0xffc978));
    lamp.position.set(width * 0.42, height * 0.55, width * 0.2);
    node.add(coat, head, lamp);
    node.position.set(...toGltf(position, metres));
    node.rotation.y = (turn * Math.PI) / 180;
    return Promise.resolve({ node, rest: position });
  },
};
