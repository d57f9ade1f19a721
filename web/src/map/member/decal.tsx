import { cornersOf, frameOf } from '@violet-crate/core/decal/frame';
import { addScaled } from '@violet-crate/core/math/vec3';
import { DecalInspector } from '../decal/DecalInspector.tsx';
import type { MemberLook } from './look.ts';

/** A frame around its picture, with a tick at its top. */
export const decal: MemberLook<'decals'> = {
  icon: () => 'stickies',
  solid: true,
  heading: () => 'Decals',
  aside: ({ material }) => material,
  points: (member) => [member.position],
  lines(member) {
    const corners = cornersOf(member);
    return corners.map((corner, i) => [corner, corners[(i + 1) % 4]] as const);
  },
  grips: ({ position }) => [position],
  moved: (member, _grip, position) => ({ ...member, position }),
  draw({ context, place, colours, chosen }, member) {
    const { up } = frameOf(member);
    const corners = cornersOf(member).map(place);
    context.strokeStyle = chosen ? colours.warm : colours.faint;
    context.lineWidth = chosen ? 2 : 1;
    context.beginPath();
    corners.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
    context.closePath();
    const top = addScaled(member.position, up, member.size[1] / 2);
    for (const [i, p] of [top, addScaled(top, up, -member.size[1] / 8)].map(place).entries())
      if (i === 0) context.moveTo(...p);
      else context.lineTo(...p);
    context.stroke();
  },
  Inspector: ({ ids }) => <DecalInspector ids={ids} />,
};
