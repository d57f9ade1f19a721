import { useMemo } from 'react';
import { roomOf } from '@violet-crate/core/map/sound';
import { objectBox } from '@violet-crate/core/map/objectBox';
import { boxCentre } from '@violet-crate/core/math/box3';
import { Field } from '../common/fields.tsx';
import { useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';
import type { Look, PartFieldsProps } from './look.ts';

export const bed: Look = {
  colour: 'clear',
  frame: 'dashed',
  body: null,
  Fields: Room,
  /** Three waves. */
  mark(context) {
    for (const r of [3, 6, 9]) {
      context.beginPath();
      context.arc(-4, 0, r, -0.8, 0.8);
      context.stroke();
    }
  },
};

/** What Sabine's formula gives for the room about its middle. */
function Room({ object }: PartFieldsProps) {
  const world = useAppSelector(selectWorld);
  const solids = useAppSelector((s) => s.map.map?.solids);
  const room = useMemo(() => (world && solids ? roomOf(world, { solids }, boxCentre(objectBox(world, object))) : null), [world, solids, object]);
  return (
    <Field label="Its room">
      <span className="small">
        {room === null
          ? 'Nothing stands around its middle.'
          : `${room.seconds.toFixed(2)} s by Sabine: ${room.path.toFixed(1)} m from wall to wall, which take ${(room.absorbs * 100).toFixed(0)} %`}
      </span>
    </Field>
  );
}
