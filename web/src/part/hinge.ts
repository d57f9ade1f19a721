import { vectorOf } from '@violet-crate/core/document/value';
import type { Look } from './look.ts';
import { slab } from './slab.ts';

/** The quarter of a circle that a leaf sweeps, and on the plan the swing itself. */
export const hinge: Look = {
  frame: 'line',
  points: true,
  inGame: true,
  mark(context) {
    context.moveTo(-6, 5);
    context.lineTo(6, 5);
    context.moveTo(6, 5);
    context.arc(-6, 5, 12, 0, -Math.PI / 2, true);
    context.stroke();
  },
  plan({ context, x, y, scale, object, colours }) {
    const [hx, hy] = vectorOf(object.properties.hinge) ?? [0, 0, 0];
    const [wide] = vectorOf(object.properties.size) ?? [0, 0, 0];
    const turn = (object.turn * Math.PI) / 180;
    const swing = (Number(object.properties.angle) * Math.PI) / 180;
    const at = [x + (hx * Math.cos(turn) - hy * Math.sin(turn)) * scale, y - (hx * Math.sin(turn) + hy * Math.cos(turn)) * scale];
    // The plan looks down: y of the picture runs against y of the map.
    const shut = -turn + (hx > 0 ? Math.PI : 0);
    context.strokeStyle = colours.violet;
    context.beginPath();
    context.moveTo(at[0], at[1]);
    context.arc(at[0], at[1], wide * scale, shut, shut - swing, swing > 0);
    context.closePath();
    context.stroke();
  },
  trialBody: slab,
};
