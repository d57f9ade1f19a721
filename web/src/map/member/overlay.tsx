import { OverlayInspector } from '../decal/OverlayInspector.tsx';
import type { MemberLook } from './look.ts';

/** Its line or its outline; how wide it is shows in the perspective. */
export const overlay: MemberLook<'overlays'> = {
  icon: ({ form }) => (form === 'strip' ? 'slash-lg' : 'pentagon'),
  solid: true,
  heading: () => 'Overlays',
  aside: ({ material }) => material,
  points: ({ points }) => points,
  lines: ({ points, form }) =>
    points.flatMap((p, i) => (i > 0 || form === 'area' ? [[points[(i + points.length - 1) % points.length], p] as const] : [])),
  grips: ({ points }) => points,
  moved: (member, grip, to) => ({ ...member, points: member.points.map((p, i) => (i === grip ? to : p)) }),
  draw({ context, place, colours, chosen }, { points, form }) {
    context.strokeStyle = chosen ? colours.warm : colours.faint;
    context.lineWidth = chosen ? 2 : 1;
    context.beginPath();
    points.map(place).forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
    if (form === 'area') context.closePath();
    context.stroke();
  },
  Inspector: ({ ids }) => <OverlayInspector ids={ids} />,
};
