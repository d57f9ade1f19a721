import { drawLabel } from '../../common/sheet.ts';
import { arrow } from '../editing/arrow.ts';
import { PathInspector } from '../inspector/PathInspector.tsx';
import type { MemberLook } from './look.ts';

export const path: MemberLook<'paths'> = {
  icon: () => 'bezier2',
  heading: () => 'Paths',
  aside: ({ points }) => `${points.length} points`,
  points: ({ points }) => points,
  lines: ({ points, loop }) => points.flatMap((p, i) => (i > 0 || loop ? [[points[(i + points.length - 1) % points.length], p] as const] : [])),
  grips: ({ points }) => points,
  moved: (member, grip, to) => ({ ...member, points: member.points.map((p, i) => (i === grip ? to : p)) }),
  draw({ context, place, colours, chosen }, { points, loop, name }) {
    const ink = chosen ? colours.warm : colours.clear;
    const flat = points.map(place);
    context.strokeStyle = ink;
    context.lineWidth = chosen ? 2.5 : 1.5;
    const ends = loop && flat.length > 2 ? [...flat, flat[0]] : flat;
    for (let i = 1; i < ends.length; i++) arrow(context, ends[i - 1], ends[i]);
    flat.forEach(([x, y], i) => {
      context.fillStyle = i === 0 ? ink : colours.ground;
      context.beginPath();
      context.arc(x, y, chosen ? 5 : 3, 0, 2 * Math.PI);
      context.fill();
      context.stroke();
      if (chosen) drawLabel(context, String(i), x + 7, y - 5, ink, colours.ground);
    });
    if (name && flat[0]) drawLabel(context, name, flat[0][0] + 9, flat[0][1] + 14, ink, colours.ground);
  },
  Inspector: ({ ids }) => <PathInspector id={ids[0]} />,
};
